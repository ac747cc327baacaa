// SPDX-License-Identifier: MPL-2.0
#include "level/corner_graph.h"

#include "level/obstacles.h"
#include "level/plan_cut.h"

#include <algorithm>
#include <cmath>
#include <queue>

namespace stone
{

namespace
{

/// By how much corners are moved off their walls, so that rays to them do not end in the wall.
constexpr double offWall_m = 0.02;
/// Flatter bends than this are no corners.
const double leastTurn = std::sin(10.0 * 3.14159265358979 / 180.0);

double cross(const Vec2& a, const Vec2& b)
{
    return a.x * b.y - a.y * b.x;
}

} // namespace

CornerGraph::CornerGraph(const Obstacles& obstacles, double height_m) : height_m_(height_m)
{
    gather(obstacles);
    std::vector<Sphere> reaches;
    reaches.reserve(corners_.size());
    for (const Corner& corner : corners_) {
        reaches.push_back({Vec3{corner.at, 0.0}, reach_m});
    }
    index_ = SphereIndex(reaches);
    join(obstacles);
}

void CornerGraph::gather(const Obstacles& obstacles)
{
    const PlanCut cut = PlanCutter(obstacles.mesh()).at(height_m_);
    for (const Outline& outline : cut.outlines) {
        const std::size_t n = outline.points.size();
        for (std::size_t i = 0; i < n; ++i) {
            const Vec2& p = outline.points[i];
            const bool begin = !outline.closed && i == 0;
            const bool end = !outline.closed && i + 1 == n;
            if (n < 2) {
                continue;
            }
            const Vec2 in = begin ? Vec2{0.0} : glm::normalize(p - outline.points[(i + n - 1) % n]);
            const Vec2 out = end ? Vec2{0.0} : glm::normalize(outline.points[(i + 1) % n] - p);
            if (begin || end) {
                const Vec2 along = begin ? out : -in;
                corners_.push_back({p - along * offWall_m, along, along});
                continue;
            }
            const double turn = cross(in, out);
            // What is solid lies on the left: a turn to the left is a corner that stands out. A sheet has both sides.
            if (outline.filled ? turn > leastTurn : std::abs(turn) > leastTurn) {
                const Vec2 outward = glm::normalize(in - out);
                corners_.push_back({p + outward * offWall_m, -in, out});
            }
        }
    }
}

bool CornerGraph::tangent(const Corner& corner, const Vec2& direction) const
{
    return cross(direction, corner.before) * cross(direction, corner.after) >= 0.0;
}

bool CornerGraph::sees(const Vec2& corner, const End& end, const Obstacles& obstacles) const
{
    return obstacles.clear(
        {.from = {corner, height_m_}, .to = {end.place, height_m_}, .clearTo_m = end.clear_m, .without = end.without});
}

void CornerGraph::join(const Obstacles& obstacles)
{
    edges_.resize(corners_.size());
    std::vector<std::uint32_t> near;
    for (std::uint32_t i = 0; i < corners_.size(); ++i) {
        near.clear();
        index_.containing({corners_[i].at, 0.0}, near);
        for (const std::uint32_t k : near) {
            const Vec2 way = corners_[k].at - corners_[i].at;
            if (k <= i || !tangent(corners_[i], way) || !tangent(corners_[k], way) ||
                !sees(corners_[i].at, {corners_[k].at}, obstacles)) {
                continue;
            }
            const auto length = static_cast<float>(glm::length(way));
            edges_[i].push_back({k, length});
            edges_[k].push_back({i, length});
        }
    }
}

void CornerGraph::spreadFrom(const Vec2& place, double clear_m, const Obstacles& obstacles, Spread& spread) const
{
    spread.from = place;
    spread.way_m.assign(corners_.size(), boundless);
    spread.after.assign(corners_.size(), none);
    spread.first.assign(corners_.size(), none);
    using Reached = std::pair<double, std::uint32_t>;
    std::priority_queue<Reached, std::vector<Reached>, std::greater<>> open;
    std::vector<std::uint32_t> near;
    index_.containingUnsorted({place, 0.0}, near);
    for (const std::uint32_t i : near) {
        const Vec2 way = corners_[i].at - place;
        if (tangent(corners_[i], way) && sees(corners_[i].at, {place, clear_m}, obstacles)) {
            spread.way_m[i] = glm::length(way);
            spread.first[i] = i;
            open.emplace(spread.way_m[i], i);
        }
    }
    while (!open.empty()) {
        const auto [way_m, i] = open.top();
        open.pop();
        if (way_m > spread.way_m[i]) {
            continue;
        }
        for (const Edge& edge : edges_[i]) {
            const double further_m = way_m + static_cast<double>(edge.length_m);
            if (further_m < spread.way_m[edge.to] && further_m <= reach_m) {
                spread.way_m[edge.to] = further_m;
                spread.after[edge.to] = i;
                spread.first[edge.to] = spread.first[i];
                open.emplace(further_m, edge.to);
            }
        }
    }
}

/// On which side of the straight line a way by a corner goes.
std::optional<CornerGraph::Way>& CornerGraph::sideOf(std::uint32_t corner, const Vec2& line, const Spread& spread,
                                                     Ways& ways) const
{
    const Vec2 first = corners_[spread.first[corner]].at - spread.from;
    return cross(line, first) >= 0.0 ? ways.left : ways.right;
}

CornerGraph::Ways CornerGraph::waysTo(const End& end, const Spread& spread, const Obstacles& obstacles, double detour_m) const
{
    const Vec2& place = end.place;
    Ways ways;
    const Vec2 line = place - spread.from;
    const double most_m = glm::length(line) + detour_m;
    std::vector<std::uint32_t> near;
    index_.containingUnsorted({place, 0.0}, near);
    std::vector<std::pair<double, std::uint32_t>> candidates;
    for (const std::uint32_t i : near) {
        const Vec2 way = place - corners_[i].at;
        const double length_m = spread.way_m[i] + glm::length(way);
        if (length_m <= most_m && tangent(corners_[i], way)) {
            candidates.emplace_back(length_m, i);
        }
    }
    // The nearest few are usually enough: no need to sort them all.
    const auto later = std::greater<>();
    std::make_heap(candidates.begin(), candidates.end(), later);
    while (!candidates.empty() && !(ways.left && ways.right)) {
        const auto [length_m, i] = candidates.front();
        std::pop_heap(candidates.begin(), candidates.end(), later);
        candidates.pop_back();
        std::optional<Way>& side = sideOf(i, line, spread, ways);
        if (!side && sees(corners_[i].at, end, obstacles)) {
            side = Way{length_m, i};
        }
    }
    return ways;
}

void CornerGraph::look(const End& end, const Obstacles& obstacles, Seen& seen) const
{
    seen.end = end;
    seen.corners.clear();
    std::vector<std::uint32_t> near;
    index_.containingUnsorted({end.place, 0.0}, near);
    for (const std::uint32_t i : near) {
        const Vec2 way = end.place - corners_[i].at;
        if (tangent(corners_[i], way) && sees(corners_[i].at, end, obstacles)) {
            seen.corners.emplace_back(glm::length(way), i);
        }
    }
}

CornerGraph::Ways CornerGraph::waysTo(const Seen& seen, const Spread& spread, double detour_m) const
{
    Ways ways;
    const Vec2 line = seen.end.place - spread.from;
    const double most_m = glm::length(line) + detour_m;
    for (const auto& [away_m, i] : seen.corners) {
        const double length_m = spread.way_m[i] + away_m;
        if (length_m > most_m) {
            continue;
        }
        // Of two that are as long the corner with the lower number, as where they are looked through by length.
        std::optional<Way>& side = sideOf(i, line, spread, ways);
        if (!side || std::pair(length_m, i) < std::pair(side->length_m, side->last)) {
            side = Way{length_m, i};
        }
    }
    return ways;
}

std::vector<Vec2> CornerGraph::bendsOf(const Way& way, const Spread& spread) const
{
    std::vector<Vec2> bends;
    for (std::uint32_t i = way.last; i != none; i = spread.after[i]) {
        bends.push_back(corners_[i].at);
    }
    std::reverse(bends.begin(), bends.end());
    return bends;
}

} // namespace stone
