// SPDX-License-Identifier: MPL-2.0
#include "level/corner_graph.h"

#include "dsp/wide.h"
#include "level/obstacles.h"
#include "level/plan_cut.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <queue>
#include <span>

namespace stone
{

namespace
{

/// By how much corners are moved off their walls, so that rays to them do not end in the wall.
constexpr double offWall_m = 0.02;
/// Flatter bends than this are no corners.
const double leastTurn = std::sin(10.0 * 3.14159265358979 / 180.0);

using EightWays = float __attribute__((vector_size(8 * sizeof(float))));
using EightCorners = std::uint32_t __attribute__((vector_size(8 * sizeof(std::uint32_t))));

constexpr float unreached = std::numeric_limits<float>::infinity();

double cross(const Vec2& a, const Vec2& b)
{
    return a.x * b.y - a.y * b.x;
}

} // namespace

CornerGraph::CornerGraph(const Obstacles& obstacles, double height_m) : height_m_(height_m)
{
    gather(obstacles);
    sortByPlace();
    std::vector<Sphere> reaches;
    for (std::size_t begin = 0; begin < corners_.size(); begin += wide) {
        const auto eight = std::span(corners_).subspan(begin, std::min(wide, corners_.size() - begin));
        Vec2 low = eight.front().at;
        Vec2 high = low;
        for (const Corner& corner : eight) {
            low = glm::min(low, corner.at);
            high = glm::max(high, corner.at);
        }
        reaches.push_back({Vec3{(low + high) / 2.0, 0.0}, reach_m + glm::length(high - low) / 2.0});
    }
    index_ = SphereIndex(reaches);
    join(obstacles);
    rows_ = std::make_unique<KeptRow[]>(corners_.size());
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

/// By cells of a grid, along a curve through it that turns from each into its neighbours first (by G. M. Morton, 1966: the bits
/// of both numbers of a cell, one from each in turn).
void CornerGraph::sortByPlace()
{
    constexpr double cell_m = 0.5;
    constexpr int bits = 16;
    Vec2 low{0.0};
    for (const Corner& corner : corners_) {
        low = glm::min(low, corner.at);
    }
    const auto number = [&](const Corner& corner) {
        const Vec2 cell = glm::min((corner.at - low) / cell_m, Vec2{(1 << bits) - 1});
        const auto east = static_cast<std::uint32_t>(cell.x);
        const auto north = static_cast<std::uint32_t>(cell.y);
        std::uint32_t woven = 0;
        for (int bit = 0; bit < bits; ++bit) {
            woven |= (east >> bit & 1U) << (2 * bit) | (north >> bit & 1U) << (2 * bit + 1);
        }
        return woven;
    };
    std::stable_sort(corners_.begin(), corners_.end(), [&](const Corner& a, const Corner& b) { return number(a) < number(b); });
}

/// Calls with each corner no further than the reach, in an order that depends on nothing but the place.
template <class Take> void CornerGraph::withinReach(const Vec2& place, const Take& take) const
{
    thread_local std::vector<std::uint32_t> eights;
    eights.clear();
    index_.containingUnsorted({place, 0.0}, eights);
    for (const std::uint32_t eight : eights) {
        const std::size_t end = std::min((eight + 1) * wide, corners_.size());
        for (std::size_t i = eight * wide; i < end; ++i) {
            const Vec2 way = corners_[i].at - place;
            if (glm::dot(way, way) <= reach_m * reach_m) {
                take(static_cast<std::uint32_t>(i), way);
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
    for (std::uint32_t i = 0; i < corners_.size(); ++i) {
        withinReach(corners_[i].at, [&](std::uint32_t k, const Vec2& way) {
            if (k <= i || !tangent(corners_[i], way) || !tangent(corners_[k], way) ||
                !sees(corners_[i].at, {corners_[k].at}, obstacles)) {
                return;
            }
            const auto length = static_cast<float>(glm::length(way));
            edges_[i].push_back({k, length});
            edges_[k].push_back({i, length});
        });
    }
}

std::size_t CornerGraph::padded() const
{
    return (corners_.size() + wide - 1) / wide * wide;
}

CornerGraph::Row CornerGraph::waysFrom(std::uint32_t corner) const
{
    std::vector<float> way_m(padded(), unreached);
    std::vector<std::uint32_t> before(way_m.size(), none);
    using Reached = std::pair<float, std::uint32_t>;
    std::priority_queue<Reached, std::vector<Reached>, std::greater<>> open;
    way_m[corner] = 0.0F;
    open.emplace(0.0F, corner);
    while (!open.empty()) {
        const auto [reached_m, i] = open.top();
        open.pop();
        if (reached_m > way_m[i]) {
            continue;
        }
        for (const Edge& edge : edges_[i]) {
            const float further_m = reached_m + edge.length_m;
            if (further_m < way_m[edge.to] && further_m <= static_cast<float>(reach_m)) {
                way_m[edge.to] = further_m;
                before[edge.to] = i;
                open.emplace(further_m, edge.to);
            }
        }
    }
    Row row;
    for (std::size_t begin = 0; begin < way_m.size(); begin += wide) {
        const auto* eight = &way_m[begin];
        if (std::any_of(eight, eight + wide, [](float way) { return way < unreached; })) {
            row.ways.push_back({static_cast<std::uint32_t>(begin), {}});
            std::copy_n(eight, wide, row.ways.back().way_m.begin());
            std::copy_n(&before[begin], wide, row.before.emplace_back().begin());
        }
    }
    return row;
}

const CornerGraph::Row& CornerGraph::rowOf(std::uint32_t corner) const
{
    KeptRow& kept = rows_[corner];
    std::call_once(kept.found, [&] { kept.row = waysFrom(corner); });
    return kept.row;
}

/// Calls with each corner that a place sees and round which a way from it may bend, and how far away that is.
template <class Take> void CornerGraph::eachSeen(const End& end, const Obstacles& obstacles, const Take& take) const
{
    static_assert(wide == RayScene::wide);
    std::array<RayScene::Stretch, wide> looks;
    std::array<std::pair<std::uint32_t, double>, wide> looked; // to which corner, and how far away that is
    std::size_t count = 0;
    const auto look = [&] {
        for (unsigned seen = obstacles.clear(std::span(looks).first(count)); seen != 0; seen &= seen - 1) {
            const auto& [corner, away_m] = looked[static_cast<std::size_t>(std::countr_zero(seen))];
            take(corner, away_m);
        }
        count = 0;
    };
    withinReach(end.place, [&](std::uint32_t i, const Vec2& way) {
        if (!tangent(corners_[i], way)) {
            return;
        }
        const double away_m = glm::length(way);
        // What does not count is known only to who asks for all that is met.
        if (away_m <= end.clear_m || end.without) {
            if (sees(corners_[i].at, end, obstacles)) {
                take(i, away_m);
            }
            return;
        }
        looks[count] = {{corners_[i].at, height_m_}, {end.place + way * (end.clear_m / away_m), height_m_}};
        looked[count] = {i, away_m};
        if (++count == wide) {
            look();
        }
    });
    look();
}

void CornerGraph::spreadFrom(const Vec2& place, double clear_m, const Obstacles& obstacles, Spread& spread) const
{
    spread.from = place;
    // Until all is taken in, what is not reached is just out of reach: then nothing further counts.
    const float outOfReach_m = std::nextafter(static_cast<float>(reach_m), unreached);
    spread.way_m.assign(padded(), outOfReach_m);
    spread.first.assign(spread.way_m.size(), none);
    eachSeen({place, clear_m}, obstacles,
             [&](std::uint32_t corner, double away_m) { spreadOn(corner, static_cast<float>(away_m), spread); });
    std::replace(spread.way_m.begin(), spread.way_m.end(), outOfReach_m, unreached);
}

/// Takes in the ways that go on from a corner that is seen.
STONE_WIDE void CornerGraph::spreadOn(std::uint32_t corner, float away_m, Spread& spread) const
{
    static_assert(wide * sizeof(float) == sizeof(EightWays));
    const EightCorners here = EightCorners{} + corner;
    const EightWays away = EightWays{} + away_m;
    for (const Row::Eight& eight : rowOf(corner).ways) {
        float* way = &spread.way_m[eight.begin];
        std::uint32_t* via = &spread.first[eight.begin];
        EightWays by_m;
        EightWays way_m;
        EightCorners first;
        std::memcpy(&by_m, eight.way_m.data(), sizeof by_m);
        std::memcpy(&way_m, way, sizeof way_m);
        std::memcpy(&first, via, sizeof first);
        by_m += away;
        const auto nearer = by_m < way_m;
        way_m = nearer ? by_m : way_m;
        first = nearer ? here : first;
        std::memcpy(way, &way_m, sizeof way_m);
        std::memcpy(via, &first, sizeof first);
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
    std::vector<std::pair<double, std::uint32_t>> candidates;
    withinReach(place, [&](std::uint32_t i, const Vec2& way) {
        const double length_m = static_cast<double>(spread.way_m[i]) + glm::length(way);
        if (length_m <= most_m && tangent(corners_[i], way)) {
            candidates.emplace_back(length_m, i);
        }
    });
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
    eachSeen(end, obstacles, [&](std::uint32_t corner, double away_m) { seen.corners.emplace_back(away_m, corner); });
}

CornerGraph::Ways CornerGraph::waysTo(const Seen& seen, const Spread& spread, double detour_m) const
{
    Ways ways;
    const Vec2 line = seen.end.place - spread.from;
    const double most_m = glm::length(line) + detour_m;
    for (const auto& [away_m, i] : seen.corners) {
        const double length_m = static_cast<double>(spread.way_m[i]) + away_m;
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
    const Row& row = rowOf(spread.first[way.last]);
    std::vector<Vec2> bends;
    for (std::uint32_t i = way.last; i != none;) {
        bends.push_back(corners_[i].at);
        const auto eight = std::upper_bound(row.ways.begin(), row.ways.end(), i,
                                            [](std::uint32_t corner, const Row::Eight& at) { return corner < at.begin; });
        i = row.before[static_cast<std::size_t>(eight - row.ways.begin()) - 1][i % wide];
    }
    std::reverse(bends.begin(), bends.end());
    return bends;
}

} // namespace stone
