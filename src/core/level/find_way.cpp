// SPDX-License-Identifier: MPL-2.0
#include "level/find_way.h"

#include <algorithm>
#include <cmath>
#include <queue>
#include <unordered_map>
#include <utility>

namespace stone
{

namespace
{

constexpr double cell_m = 0.25;
constexpr double highestStep_m = 0.45;
constexpr double knee_m = 0.6;
constexpr double shoulder_m = 1.4;
constexpr double halfBody_m = 0.25;
constexpr std::size_t mostCells = 60'000;

/// A cell of the grid on one floor.
struct Cell {
    int x, y, z; ///< z in steps of half a metre, so that floors above each other are told apart

    bool operator==(const Cell&) const = default;
};

struct CellHash {
    std::size_t operator()(const Cell& cell) const
    {
        const auto mix = [](std::uint64_t h, int v) { return (h ^ static_cast<std::uint32_t>(v)) * 0x9E3779B97F4A7C15ULL; };
        return static_cast<std::size_t>(mix(mix(mix(1, cell.x), cell.y), cell.z));
    }
};

struct Visit {
    Vec3 at;
    double cost_m;
    Cell before;
    bool done;
};

Cell cellOf(const Vec3& p)
{
    return {static_cast<int>(std::floor(p.x / cell_m)), static_cast<int>(std::floor(p.y / cell_m)),
            static_cast<int>(std::floor(p.z * 2.0))};
}

/// Whether a body gets from one floor place to the next in a straight line: nothing at knees and shoulders, on the middle
/// line and half a body to each side, and floor all along.
bool passes(const Ground& ground, const Vec3& a, const Vec3& b)
{
    const Vec3 way = b - a;
    const double length = std::hypot(way.x, way.y);
    if (length < 1e-9) {
        return true;
    }
    const Vec3 side = Vec3{way.y, -way.x, 0.0} * (halfBody_m / length);
    for (const double height : {knee_m, shoulder_m}) {
        const Vec3 up{0.0, 0.0, height};
        if (!ground.clear(a + up, b + up) || !ground.clear(a + up + side, b + up + side) ||
            !ground.clear(a + up - side, b + up - side)) {
            return false;
        }
    }
    double height = a.z;
    const int pieces = std::max(1, static_cast<int>(length / cell_m));
    for (int i = 1; i <= pieces; ++i) {
        const Vec3 p = a + way * (static_cast<double>(i) / pieces);
        const auto floor = ground.floorBelow({p.x, p.y, height + highestStep_m}, 2.0 * highestStep_m);
        if (!floor) {
            return false;
        }
        height = floor->height_m;
    }
    return std::abs(height - b.z) < 0.1;
}

std::vector<Vec3> pulledStraight(const Ground& ground, const std::vector<Vec3>& way)
{
    std::vector<Vec3> straight{way.front()};
    std::size_t at = 0;
    while (at + 1 < way.size()) {
        // The farthest that is still in a straight line, tried in halves: a way round a corner is never straight again.
        std::size_t good = at + 1;
        std::size_t bad = way.size();
        while (bad - good > 1) {
            const std::size_t middle = (good + bad) / 2;
            (passes(ground, way[at], way[middle]) ? good : bad) = middle;
        }
        straight.push_back(way[good]);
        at = good;
    }
    return straight;
}

} // namespace

std::vector<Vec3> findWay(const Ground& ground, const Vec3& from, const Vec3& to)
{
    const auto onFloor = [&](const Vec3& p) -> std::optional<Vec3> {
        const auto floor = ground.floorBelow(p + Vec3{0.0, 0.0, highestStep_m}, 4.0);
        return floor ? std::optional(Vec3{p.x, p.y, floor->height_m}) : std::nullopt;
    };
    const auto start = onFloor(from);
    const auto goal = onFloor(to);
    if (!start || !goal) {
        return {};
    }
    using Entry = std::pair<double, Cell>;
    const auto later = [](const Entry& a, const Entry& b) { return a.first > b.first; };
    std::priority_queue<Entry, std::vector<Entry>, decltype(later)> open(later);
    std::unordered_map<Cell, Visit, CellHash> visits;
    const Cell first = cellOf(*start);
    visits[first] = {*start, 0.0, first, false};
    open.emplace(0.0, first);
    while (!open.empty() && visits.size() < mostCells) {
        const Cell cell = open.top().second;
        open.pop();
        Visit& here = visits[cell];
        if (std::exchange(here.done, true)) {
            continue;
        }
        const Vec3 at = here.at;
        const double cost_m = here.cost_m;
        if (glm::length(at - *goal) < 1.5 * cell_m && passes(ground, at, *goal)) {
            std::vector<Vec3> way{*goal};
            for (Cell back = cell;; back = visits[back].before) {
                way.push_back(visits[back].at);
                if (back == first) {
                    break;
                }
            }
            std::reverse(way.begin(), way.end());
            way = pulledStraight(ground, way);
            // Heights of the ends as they were asked for: a Roamer may float.
            way.front().z = from.z;
            way.back().z = to.z;
            return way;
        }
        for (int dx = -1; dx <= 1; ++dx) {
            for (int dy = -1; dy <= 1; ++dy) {
                const Vec3 next{(std::floor(at.x / cell_m) + dx + 0.5) * cell_m,
                                (std::floor(at.y / cell_m) + dy + 0.5) * cell_m, at.z};
                const auto floor = ground.floorBelow(next + Vec3{0.0, 0.0, highestStep_m}, 2.0 * highestStep_m);
                if ((dx == 0 && dy == 0) || !floor) {
                    continue;
                }
                const Vec3 there{next.x, next.y, floor->height_m};
                const Cell other = cellOf(there);
                const double cost = cost_m + glm::length(there - at);
                const auto known = visits.find(other);
                if ((known != visits.end() && (known->second.done || known->second.cost_m <= cost)) ||
                    !passes(ground, at, there)) {
                    continue;
                }
                visits[other] = {there, cost, cell, false};
                open.emplace(cost + glm::length(*goal - there), other);
            }
        }
    }
    return {};
}

} // namespace stone
