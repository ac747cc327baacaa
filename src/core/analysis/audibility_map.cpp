// SPDX-License-Identifier: MPL-2.0
#include "analysis/audibility_map.h"

#include "analysis/side_by_side.h"
#include "level/mesh.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numeric>

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
            if (emitter->kind != EmitterKind::bed && !isOfCharacter(emitter->kind)) {
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

bool mapCells(const HearingModel& model, const MapGrid& grid, const MapQuestion& question, std::span<const std::uint32_t> which,
              std::span<MapCell> cells, unsigned threads, const std::function<bool(double)>& goOn)
{
    // So many at a time: what is near them is alike, and whoever stops it does not wait long.
    constexpr std::size_t atOnce = 16;
    const MapAsker asker(model, question);
    std::atomic<std::size_t> next{0};
    std::atomic<std::size_t> done{0};
    std::atomic<bool> stopped{false};
    const auto work = [&] {
        MapAsker::Scratch scratch;
        for (std::size_t first = next.fetch_add(atOnce); first < which.size() && !stopped; first = next.fetch_add(atOnce)) {
            const std::size_t last = std::min(first + atOnce, which.size());
            for (std::size_t i = first; i < last; ++i) {
                cells[which[i]] = asker.ask(grid.at(which[i] % grid.columns, which[i] / grid.columns), scratch);
            }
            const std::size_t cellsDone = done += last - first;
            if (goOn && !goOn(static_cast<double>(cellsDone) / static_cast<double>(which.size()))) {
                stopped = true;
            }
        }
    };
    sideBySide(threads, work);
    return !stopped;
}

std::vector<MapCell> mapLevel(const HearingModel& model, const MapGrid& grid, const MapQuestion& question,
                              std::pair<std::uint32_t, std::uint32_t> rows, unsigned threads,
                              const std::function<bool(double)>& goOn)
{
    // Cells are asked for by their places in the whole grid: to the last bit they are the same in every part.
    const std::size_t first = std::size_t{rows.first} * grid.columns;
    const std::size_t last = std::max(std::size_t{std::min(rows.second, grid.rows)} * grid.columns, first);
    std::vector<std::uint32_t> which(last - first);
    std::iota(which.begin(), which.end(), static_cast<std::uint32_t>(first));
    std::vector<MapCell> cells(grid.cells());
    mapCells(model, grid, question, which, cells, threads, goOn);
    return {cells.begin() + static_cast<std::ptrdiff_t>(first), cells.begin() + static_cast<std::ptrdiff_t>(last)};
}

std::optional<std::vector<Sphere>> changedWithin(const HearingModel& before, const HearingModel& after)
{
    const Project& a = before.project();
    const Project& b = after.project();
    const Level& from = before.level();
    const Level& to = after.level();
    const bool alike = before.world().ground() == after.world().ground() &&
                       before.occluder().active() == after.occluder().active() && a.seed == b.seed && a.voices == b.voices &&
                       a.voicesGiveWay == b.voicesGiveWay && a.voicesHoldOff_s == b.voicesHoldOff_s && a.air == b.air &&
                       a.sounds.shares(b.sounds) && a.falloffs.shares(b.falloffs) && a.families.shares(b.families) &&
                       a.patterns.shares(b.patterns) && a.gameValues.shares(b.gameValues) && a.gazes.shares(b.gazes) &&
                       a.materials == b.materials && a.surfaces == b.surfaces && a.occlusion == b.occlusion &&
                       from.id == to.id && from.character == to.character && from.storeys == to.storeys &&
                       from.zones.shares(to.zones) && from.rooms.shares(to.rooms) && from.openings.shares(to.openings) &&
                       from.outside == to.outside && from.emitters.size() == to.emitters.size();
    if (!alike) {
        return {};
    }
    std::vector<Sphere> spheres;
    for (std::uint32_t i = 0; i < to.emitters.size(); ++i) {
        const auto& was = from.emitters[i];
        const auto& is = to.emitters[i];
        const Start nothing{.emitter = i};
        const bool same = was == is && before.silencedForEars(i) == after.silencedForEars(i) &&
                          before.soundless(i, nothing) == after.soundless(i, nothing);
        if (same) {
            continue;
        }
        // What carries others, or shares its voice, or falls round the player, is heard wherever those are.
        const bool single = was->id == is->id && is->kind == EmitterKind::point && was->kind == EmitterKind::point;
        if (!single) {
            return {};
        }
        for (const HearingModel* model : {&before, &after}) {
            Sphere sphere = model->world().rangeOf(i);
            sphere.radius_m += model->reach_m(i);
            if (!std::isfinite(sphere.radius_m)) {
                return {};
            }
            spheres.push_back(sphere);
        }
    }
    return spheres;
}

std::vector<double> levelsOf(std::span<const MapCell> cells)
{
    std::vector<double> levels(cells.size());
    std::transform(cells.begin(), cells.end(), levels.begin(), [](const MapCell& cell) { return cell.level_db; });
    return levels;
}

std::vector<std::uint32_t> cellsOfStride(const MapGrid& grid, std::uint32_t stride, bool first)
{
    std::vector<std::uint32_t> cells;
    for (std::uint32_t row = 0; row < grid.rows; row += stride) {
        for (std::uint32_t column = 0; column < grid.columns; column += stride) {
            if (first || row % (2 * stride) != 0 || column % (2 * stride) != 0) {
                cells.push_back(row * grid.columns + column);
            }
        }
    }
    return cells;
}

std::pair<MapGrid, std::vector<MapCell>> coarseMap(const MapGrid& grid, std::span<const MapCell> cells, std::uint32_t stride)
{
    MapGrid coarse = grid;
    coarse.cell_m *= stride;
    coarse.columns = (grid.columns - 1) / stride + 1;
    coarse.rows = (grid.rows - 1) / stride + 1;
    std::vector<MapCell> known;
    known.reserve(coarse.cells());
    for (const std::uint32_t cell : cellsOfStride(grid, stride, true)) {
        known.push_back(cells[cell]);
    }
    return {coarse, std::move(known)};
}

} // namespace stone
