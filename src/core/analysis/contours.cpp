// SPDX-License-Identifier: MPL-2.0
#include "analysis/contours.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <unordered_map>

namespace stone
{

namespace
{

/// Below the lowest level everything is alike.
constexpr double floorBelow_db = 12.0;

/// An edge between two neighbouring cells: the cell at its west or south end, and which of the two ways it goes.
using Edge = std::uint64_t;

class Tracer
{
public:
    Tracer(const MapGrid& grid, std::span<const double> values, double level_db, double floor_db)
        : grid_(grid), values_(values), level_db_(level_db), floor_db_(floor_db)
    {
        for (std::uint32_t row = 0; row + 1 < grid.rows; ++row) {
            for (std::uint32_t column = 0; column + 1 < grid.columns; ++column) {
                addSquare(column, row);
            }
        }
    }

    std::vector<Contour> lines()
    {
        std::vector<Contour> found;
        // Those that begin at the border first, then what is left goes round.
        std::vector<Edge> starts;
        for (const auto& [from, to] : next_) {
            if (!before_.contains(from)) {
                starts.push_back(from);
            }
        }
        std::sort(starts.begin(), starts.end());
        for (const Edge start : starts) {
            found.push_back(follow(start));
        }
        std::vector<Edge> rest;
        for (const auto& [from, to] : next_) {
            rest.push_back(from);
        }
        std::sort(rest.begin(), rest.end());
        for (const Edge start : rest) {
            if (next_.contains(start)) {
                found.push_back(follow(start));
            }
        }
        return found;
    }

private:
    double at(std::uint32_t column, std::uint32_t row) const
    {
        return std::max(values_[std::size_t{row} * grid_.columns + column], floor_db_);
    }
    Edge edge(std::uint32_t column, std::uint32_t row, bool north) const
    {
        return (std::uint64_t{row} * grid_.columns + column) * 2 + (north ? 1 : 0);
    }
    Vec2 placeOn(Edge which) const
    {
        const bool north = which % 2 == 1;
        const auto column = static_cast<std::uint32_t>(which / 2 % grid_.columns);
        const auto row = static_cast<std::uint32_t>(which / 2 / grid_.columns);
        const double a = at(column, row);
        const double b = north ? at(column, row + 1) : at(column + 1, row);
        const double share = b != a ? std::clamp((level_db_ - a) / (b - a), 0.0, 1.0) : 0.5;
        return {grid_.from.x + (column + (north ? 0.0 : share)) * grid_.cell_m,
                grid_.from.y + (row + (north ? share : 0.0)) * grid_.cell_m};
    }

    /// A piece of a line from one side of a square to another, louder on its left.
    void piece(Edge from, Edge to)
    {
        next_.emplace(from, to);
        before_.emplace(to, from);
    }

    void addSquare(std::uint32_t column, std::uint32_t row)
    {
        const std::array<double, 4> corners{at(column, row), at(column + 1, row), at(column + 1, row + 1), at(column, row + 1)};
        int loud = 0;
        for (int i = 0; i < 4; ++i) {
            loud |= corners[static_cast<std::size_t>(i)] >= level_db_ ? 1 << i : 0;
        }
        const Edge south = edge(column, row, false);
        const Edge east = edge(column + 1, row, true);
        const Edge north = edge(column, row + 1, false);
        const Edge west = edge(column, row, true);
        const bool middle = (corners[0] + corners[1] + corners[2] + corners[3]) / 4.0 >= level_db_;
        // Corners from the south-west, round to the left.
        switch (loud) {
        case 1: piece(south, west); break;
        case 2: piece(east, south); break;
        case 3: piece(east, west); break;
        case 4: piece(north, east); break;
        case 5: middle ? (piece(south, east), piece(north, west)) : (piece(south, west), piece(north, east)); break;
        case 6: piece(north, south); break;
        case 7: piece(north, west); break;
        case 8: piece(west, north); break;
        case 9: piece(south, north); break;
        case 10: middle ? (piece(west, south), piece(east, north)) : (piece(east, south), piece(west, north)); break;
        case 11: piece(east, north); break;
        case 12: piece(west, east); break;
        case 13: piece(south, east); break;
        case 14: piece(west, south); break;
        default: break;
        }
    }

    Contour follow(Edge start)
    {
        Contour contour{level_db_, false, {placeOn(start)}};
        Edge here = start;
        for (auto step = next_.find(here); step != next_.end(); step = next_.find(here)) {
            const Edge to = step->second;
            next_.erase(step);
            here = to;
            if (here == start) {
                contour.closed = true;
                break;
            }
            const Vec2 place = placeOn(here);
            if (place != contour.line.back()) {
                contour.line.push_back(place);
            }
        }
        return contour;
    }

    const MapGrid& grid_;
    std::span<const double> values_;
    double level_db_;
    double floor_db_;
    std::unordered_map<Edge, Edge> next_;
    std::unordered_map<Edge, Edge> before_;
};

} // namespace

std::vector<Contour> contoursOf(const MapGrid& grid, std::span<const double> values, std::span<const double> levels_db)
{
    std::vector<Contour> all;
    if (levels_db.empty() || values.size() < grid.cells()) {
        return all;
    }
    const double floor_db = *std::min_element(levels_db.begin(), levels_db.end()) - floorBelow_db;
    for (const double level_db : levels_db) {
        std::vector<Contour> some = Tracer(grid, values, level_db, floor_db).lines();
        std::erase_if(some, [](const Contour& contour) { return contour.line.size() < 2; });
        std::stable_sort(some.begin(), some.end(),
                         [](const Contour& a, const Contour& b) { return a.line.size() > b.line.size(); });
        all.insert(all.end(), some.begin(), some.end());
    }
    return all;
}

std::vector<double> contourLevels_db(std::span<const double> values, double step_db, double deep_db)
{
    double low = std::numeric_limits<double>::infinity();
    double high = -std::numeric_limits<double>::infinity();
    for (const double value : values) {
        if (std::isfinite(value)) {
            low = std::min(low, value);
            high = std::max(high, value);
        }
    }
    std::vector<double> levels;
    if (high < low) {
        return levels;
    }
    low = std::max(low, high - deep_db);
    for (double level = std::ceil(low / step_db) * step_db; level < high; level += step_db) {
        levels.push_back(level);
    }
    return levels;
}

} // namespace stone
