#include "analysis/audibility_map.h"

#include "level/mesh.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <thread>

namespace stone
{

MapGrid gridOf(const Level& level, std::size_t storey, const Mesh* mesh, std::uint32_t cells)
{
    constexpr double about_m = 10.0; ///< round what is placed, and no storey is smaller
    Vec2 low{std::numeric_limits<double>::infinity()};
    Vec2 high{-std::numeric_limits<double>::infinity()};
    const auto include = [&](const Vec2& p) {
        low = glm::min(low, p);
        high = glm::max(high, p);
    };
    if (mesh != nullptr && !mesh->points.empty()) {
        for (const Vec3& corner : mesh->bounds()) {
            include({corner.x, corner.y});
        }
    } else {
        const Vec2 start{level.character.start.x, level.character.start.y};
        include(start - about_m);
        include(start + about_m);
        for (const auto& emitter : level.emitters) {
            if (emitter->kind != EmitterKind::bed && emitter->kind != EmitterKind::steps) {
                include(Vec2{emitter->at.x, emitter->at.y} - about_m);
                include(Vec2{emitter->at.x, emitter->at.y} + about_m);
            }
        }
    }
    MapGrid grid;
    const Vec2 size = glm::max(high - low, Vec2{1e-3});
    cells = std::max<std::uint32_t>(cells, 1);
    grid.cell_m = std::max(size.x, size.y) / cells;
    const auto fitting = [&](double length_m) {
        return std::clamp(static_cast<std::uint32_t>(std::ceil(length_m / grid.cell_m - 1e-9)), 1U, cells);
    };
    grid.columns = fitting(size.x);
    grid.rows = fitting(size.y);
    const Vec2 whole{grid.columns * grid.cell_m, grid.rows * grid.cell_m};
    grid.from = (low + high) / 2.0 - whole / 2.0 + grid.cell_m / 2.0;
    const double floor_m = storey < level.storeys.size() ? level.storeys[storey].floor_m : level.character.start.z;
    grid.ears_m = floor_m + level.character.earsHeight_m;
    return grid;
}

std::vector<MapCell> mapLevel(const HearingModel& model, const MapGrid& grid, std::span<const std::uint32_t> which,
                              std::pair<std::uint32_t, std::uint32_t> rows, unsigned threads,
                              const std::function<bool(double)>& goOn)
{
    std::vector<bool> counts(model.level().emitters.size(), which.empty());
    for (const std::uint32_t index : which) {
        counts.at(index) = true;
    }
    // What waits for its start is not among what is heard at first; as if everything sounded it counts within its reach.
    std::vector<std::uint32_t> waiting;
    for (std::uint32_t index = 0; index < counts.size(); ++index) {
        if (counts[index] && !model.world().simple(index)) {
            waiting.push_back(index);
        }
    }
    const auto inReach = [&](std::uint32_t index, const Vec3& ears) {
        const Emitter& emitter = *model.level().emitters[index];
        return emitter.kind != EmitterKind::point || glm::length(emitter.at - ears) <= model.reach_m(index);
    };
    const std::uint32_t first = rows.first;
    const std::uint32_t last = std::min(rows.second, grid.rows);
    std::vector<MapCell> cells(first < last ? std::size_t{last - first} * grid.columns : 0);
    std::atomic<std::uint32_t> next{first};
    std::atomic<std::uint32_t> done{0};
    std::atomic<bool> stopped{false};
    // A row at a time: what is near its cells is alike.
    const auto work = [&] {
        HearScratch scratch;
        std::vector<Heard> heard;
        for (std::uint32_t row = next++; row < last && !stopped; row = next++) {
            for (std::uint32_t column = 0; column < grid.columns; ++column) {
                const Vec3 at = grid.at(column, row);
                const Moment moment(Ears(Pose{at, 0.0, 0.0, 0.0}), TimeSpan{});
                model.hear(moment, heard, scratch);
                const std::size_t started = heard.size();
                for (const std::uint32_t index : waiting) {
                    const bool known = std::any_of(heard.begin(), heard.begin() + static_cast<std::ptrdiff_t>(started),
                                                   [index](const Heard& one) { return one.index == index; });
                    if (!known && inReach(index, at)) {
                        heard.push_back(model.hearUnstarted(moment, index, scratch));
                    }
                }
                MapCell& cell = cells[std::size_t{row - first} * grid.columns + column];
                double power = 0.0;
                double loudest_db = -std::numeric_limits<double>::infinity();
                for (const Heard& one : heard) {
                    if (!counts[one.index] || !std::isfinite(one.level_db)) {
                        continue;
                    }
                    power += std::pow(10.0, one.level_db / 10.0);
                    cell.voices += one.audible ? 1 : 0;
                    if (one.level_db > loudest_db) {
                        loudest_db = one.level_db;
                        cell.loudest = one.index;
                    }
                }
                cell.level_db = power > 0.0 ? 10.0 * std::log10(power) : cell.level_db;
            }
            const std::uint32_t rowsDone = ++done;
            if (goOn && !goOn(static_cast<double>(rowsDone) / (last - first))) {
                stopped = true;
            }
        }
    };
    std::vector<std::thread> others;
    for (unsigned i = 1; i < threads; ++i) {
        others.emplace_back(work);
    }
    work();
    for (std::thread& other : others) {
        other.join();
    }
    return cells;
}

} // namespace stone
