// SPDX-License-Identifier: MPL-2.0
#include "analysis/map_reading.h"

#include "world/reach.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr std::uint64_t answersBits = 32;

std::uint64_t answer(std::uint32_t first, std::uint32_t second)
{
    // One more, so that 0 stays for nothing.
    return (static_cast<std::uint64_t>(first + 1) << answersBits) | static_cast<std::uint32_t>(second + 1);
}

double reverbed_db(const MapCell& cell)
{
    const double power = std::pow(10.0, cell.level_db / 10.0) + std::pow(10.0, cell.reverb_db / 10.0);
    return power > 0.0 ? 10.0 * std::log10(power) : MapCell::silent_db;
}

double loudness_db(const MapCell& cell)
{
    return std::max(cell.level_db, cell.reverb_db);
}

/// How many cells away the nearest one is that does not belong: by steps to the four sides, from the south-west and back.
std::vector<std::uint32_t> depths(const MapGrid& grid, std::span<const std::uint64_t> answers)
{
    std::vector<std::uint32_t> depth(grid.cells());
    const auto at = [&](std::uint32_t column, std::uint32_t row) { return std::size_t{row} * grid.columns + column; };
    const auto beside = [&](std::size_t here, bool exists, std::size_t there) {
        return exists && answers[there] == answers[here] ? depth[there] : 0;
    };
    for (std::uint32_t row = 0; row < grid.rows; ++row) {
        for (std::uint32_t column = 0; column < grid.columns; ++column) {
            const std::size_t here = at(column, row);
            depth[here] = 1 + std::min(beside(here, column > 0, here - 1), beside(here, row > 0, here - grid.columns));
        }
    }
    for (std::uint32_t row = grid.rows; row-- > 0;) {
        for (std::uint32_t column = grid.columns; column-- > 0;) {
            const std::size_t here = at(column, row);
            depth[here] = std::min(depth[here], 1 + std::min(beside(here, column + 1 < grid.columns, here + 1),
                                                             beside(here, row + 1 < grid.rows, here + grid.columns)));
        }
    }
    return depth;
}

} // namespace

bool hasNumbers(MapShows what)
{
    return what <= MapShows::voices;
}

bool needsVoices(MapShows what)
{
    return what == MapShows::withRooms || what == MapShows::reverb || what == MapShows::voices || what == MapShows::silence ||
           what == MapShows::masked;
}

std::vector<std::uint32_t> whichFor(MapShows what, const Level& level)
{
    std::vector<std::uint32_t> which;
    for (std::uint32_t i = 0; what == MapShows::ambiences && i < level.emitters.size(); ++i) {
        const EmitterKind kind = level.emitters[i]->kind;
        if (kind == EmitterKind::bed || kind == EmitterKind::area) {
            which.push_back(i);
        }
    }
    return which;
}

std::vector<double> mapNumbers(MapShows what, std::span<const MapCell> cells, std::span<const MapCell> before)
{
    std::vector<double> numbers(cells.size(), MapCell::silent_db);
    for (std::size_t i = 0; i < cells.size(); ++i) {
        const MapCell& cell = cells[i];
        switch (what) {
        case MapShows::withRooms: numbers[i] = reverbed_db(cell); break;
        case MapShows::reverb:
            if (cell.reverb_db >= audible_db || cell.level_db >= audible_db) {
                numbers[i] = std::max(cell.reverb_db, -200.0) - std::max(cell.level_db, -200.0);
            }
            break;
        case MapShows::voices: numbers[i] = cell.voices; break;
        case MapShows::difference:
            // Where neither is heard there is none; what was not heard before, or is not any more, counts from the threshold.
            if (before.size() == cells.size() && loudness_db(cell) >= audible_db) {
                numbers[i] = cell.level_db - std::max(before[i].level_db, audible_db);
            } else if (before.size() == cells.size() && loudness_db(before[i]) >= audible_db) {
                numbers[i] = audible_db - before[i].level_db;
            }
            break;
        default: numbers[i] = cell.level_db; break;
        }
    }
    return numbers;
}

std::vector<std::uint64_t> mapAnswers(MapShows what, std::span<const MapCell> cells, int limit)
{
    std::vector<std::uint64_t> answers(cells.size(), 0);
    for (std::size_t i = 0; i < cells.size(); ++i) {
        const MapCell& cell = cells[i];
        switch (what) {
        case MapShows::loudest: answers[i] = cell.loudest_db >= audible_db ? answer(cell.loudest, MapCell::nobody) : 0; break;
        case MapShows::silence:
            answers[i] = loudness_db(cell) < audible_db ? answer(MapCell::nobody, MapCell::nobody) + 1 : 0;
            break;
        case MapShows::ambiences:
            if (cell.second_db >= audible_db && cell.loudest_db - cell.second_db <= collideWithin_db) {
                // Whichever is louder: the two collide.
                answers[i] = answer(std::min(cell.loudest, cell.second), std::max(cell.loudest, cell.second));
            }
            break;
        case MapShows::voices:
            answers[i] = static_cast<int>(cell.voices) > limit ? answer(MapCell::nobody, MapCell::nobody) + 1 : 0;
            break;
        case MapShows::masked: answers[i] = cell.masked != MapCell::nobody ? answer(cell.masked, cell.maskedBy) : 0; break;
        default: break;
        }
    }
    return answers;
}

std::vector<MapRegion> mapRegions(const MapGrid& grid, std::span<const std::uint64_t> answers, std::size_t leastCells)
{
    std::vector<MapRegion> regions;
    if (answers.size() < grid.cells()) {
        return regions;
    }
    const std::vector<std::uint32_t> depth = depths(grid, answers);
    std::vector<bool> seen(grid.cells(), false);
    std::vector<std::uint32_t> open;
    for (std::uint32_t start = 0; start < grid.cells(); ++start) {
        if (seen[start] || answers[start] == 0) {
            continue;
        }
        MapRegion region{.first = static_cast<std::uint32_t>(answers[start] >> answersBits) - 1,
                         .second = static_cast<std::uint32_t>(answers[start]) - 1};
        std::uint32_t deepest = start;
        seen[start] = true;
        open.assign(1, start);
        while (!open.empty()) {
            const std::uint32_t here = open.back();
            open.pop_back();
            ++region.cells;
            deepest = depth[here] > depth[deepest] ? here : deepest;
            const std::uint32_t column = here % grid.columns;
            const auto visit = [&](bool exists, std::uint32_t there) {
                if (exists && !seen[there] && answers[there] == answers[start]) {
                    seen[there] = true;
                    open.push_back(there);
                }
            };
            visit(column > 0, here - 1);
            visit(column + 1 < grid.columns, here + 1);
            visit(here >= grid.columns, here - grid.columns);
            visit(here + grid.columns < grid.cells(), here + grid.columns);
        }
        if (region.cells >= leastCells) {
            const Vec3 middle = grid.at(deepest % grid.columns, deepest / grid.columns);
            region.middle = {middle.x, middle.y};
            regions.push_back(region);
        }
    }
    std::stable_sort(regions.begin(), regions.end(), [](const MapRegion& a, const MapRegion& b) { return a.cells > b.cells; });
    return regions;
}

std::vector<double> alongLine(const MapGrid& grid, std::span<const double> numbers, const Vec2& from, const Vec2& to,
                              std::size_t places)
{
    std::vector<double> along(places, MapCell::silent_db);
    if (numbers.size() < grid.cells() || grid.cells() == 0) {
        return along;
    }
    for (std::size_t i = 0; i < places; ++i) {
        const Vec2 at = from + (to - from) * (places > 1 ? static_cast<double>(i) / static_cast<double>(places - 1) : 0.0);
        const Vec2 in = (at - grid.from) / grid.cell_m; // in cells, from the middle of the first
        if (in.x < -0.5 || in.y < -0.5 || in.x > grid.columns - 0.5 || in.y > grid.rows - 0.5) {
            continue;
        }
        const double x = std::clamp(in.x, 0.0, grid.columns - 1.0);
        const double y = std::clamp(in.y, 0.0, grid.rows - 1.0);
        const auto column = static_cast<std::uint32_t>(x);
        const auto row = static_cast<std::uint32_t>(y);
        double sum = 0.0;
        for (const auto& [right, up] : {std::pair(0U, 0U), {1U, 0U}, {0U, 1U}, {1U, 1U}}) {
            const double weight = (right == 1 ? x - column : 1.0 - (x - column)) * (up == 1 ? y - row : 1.0 - (y - row));
            if (weight > 0.0) {
                sum += weight * numbers[std::size_t{row + up} * grid.columns + column + right];
            }
        }
        along[i] = sum;
    }
    return along;
}

} // namespace stone
