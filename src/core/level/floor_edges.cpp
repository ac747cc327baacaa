// SPDX-License-Identifier: MPL-2.0
#include "level/floor_edges.h"

#include "geometry/nearest.h"
#include "geometry/pose.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double edgeCell_m = 2.0;
constexpr double onSlope = 1.0;         ///< a floor that is come to rises by no more than the way to it is long
constexpr double sameFloor_m = 0.6;     ///< and by so much at once
constexpr double behindEdge_m = 0.05;   ///< whoever is so far beyond an edge still stands on it
constexpr double beforeItself_m = 0.02; ///< an edge does not hide what lies on it

std::uint64_t squareOf(int x, int y)
{
    return std::uint64_t{static_cast<std::uint32_t>(x)} << 32U | static_cast<std::uint32_t>(y);
}

int cellAt(double v)
{
    return static_cast<int>(std::floor(v / edgeCell_m));
}

double crossed(const Vec2& a, const Vec2& b)
{
    return a.x * b.y - a.y * b.x;
}

bool comesTo(const Vec3& feet, const Vec3& at)
{
    return std::abs(at.z - feet.z) <= std::max(sameFloor_m, onSlope * glm::length(Vec2(at - feet)));
}

/// The part of a line, as shares of it, that lies within half a turn or less of a direction from the origin: first what is on
/// the left of its right border, then what is on the right of its left border.
bool clipToCone(const Vec2& from, const Vec2& to, const Vec2& right, const Vec2& left, double& begin, double& end)
{
    for (const Vec2& inwards : {Vec2{-right.y, right.x}, Vec2{left.y, -left.x}}) {
        const double a = glm::dot(from, inwards);
        const double b = glm::dot(to, inwards);
        if (a < 0.0 && b < 0.0) {
            return false;
        }
        if (a < 0.0) {
            begin = std::max(begin, a / (a - b));
        } else if (b < 0.0) {
            end = std::min(end, a / (a - b));
        }
    }
    return begin <= end;
}

} // namespace

double FloorEdge::length_m() const
{
    double length_m = closed ? glm::length(points.front() - points.back()) : 0.0;
    for (std::size_t i = 1; i < points.size(); ++i) {
        length_m += glm::length(points[i] - points[i - 1]);
    }
    return length_m;
}

FloorEdges::FloorEdges(std::vector<FloorEdge> edges) : edges_(std::move(edges))
{
    for (std::uint32_t number = 0; number < edges_.size(); ++number) {
        const FloorEdge& edge = edges_[number];
        const std::size_t n = edge.points.size();
        for (std::size_t i = 0; i + (edge.closed ? 0 : 1) < n; ++i) {
            const Vec3& from = edge.points[i];
            const Vec3& to = edge.points[(i + 1) % n];
            const auto piece = static_cast<std::uint32_t>(pieces_.size());
            pieces_.push_back({from, to, number});
            // Every square that it passes through, and some that it only comes near to.
            const Vec2 a = Vec2(from);
            const Vec2 b = Vec2(to);
            constexpr double halfDiagonal_m = 0.7072 * edgeCell_m;
            for (int x = cellAt(std::min(a.x, b.x)); x <= cellAt(std::max(a.x, b.x)); ++x) {
                for (int y = cellAt(std::min(a.y, b.y)); y <= cellAt(std::max(a.y, b.y)); ++y) {
                    const Vec2 middle = edgeCell_m * (Vec2{x, y} + 0.5);
                    if (glm::length(nearestOnSegment(a, b, middle) - middle) <= halfDiagonal_m) {
                        cells_[squareOf(x, y)].push_back(piece);
                    }
                }
            }
        }
    }
}

template <class Found> void FloorEdges::eachNear(const Vec2& at, double within_m, const Found& found) const
{
    const double across = 2.0 * within_m / edgeCell_m + 2.0;
    if (across * across > static_cast<double>(cells_.size())) {
        // More squares than there are with anything in them.
        std::for_each(pieces_.begin(), pieces_.end(), found);
        return;
    }
    for (int x = cellAt(at.x - within_m); x <= cellAt(at.x + within_m); ++x) {
        for (int y = cellAt(at.y - within_m); y <= cellAt(at.y + within_m); ++y) {
            const auto cell = cells_.find(squareOf(x, y));
            if (cell != cells_.end()) {
                for (const std::uint32_t piece : cell->second) {
                    found(pieces_[piece]);
                }
            }
        }
    }
}

std::optional<FloorEdges::Ahead> FloorEdges::ahead(const Vec3& feet, double heading_deg, double aside_deg, EdgeKindSet kinds,
                                                   double within_m) const
{
    std::optional<Ahead> nearest;
    for (const auto& one : aheadOfEach(feet, heading_deg, aside_deg, kinds, within_m)) {
        if (one && (!nearest || one->distance_m < nearest->distance_m)) {
            nearest = one;
        }
    }
    return nearest;
}

std::array<std::optional<FloorEdges::Ahead>, edgeKindCount>
FloorEdges::aheadOfEach(const Vec3& feet, double heading_deg, double aside_deg, EdgeKindSet kinds, double within_m) const
{
    const auto direction = [](double degrees) {
        const double turned = radians(degrees);
        return Vec2{std::sin(turned), std::cos(turned)};
    };
    const Vec2 right = direction(heading_deg + aside_deg);
    const Vec2 left = direction(heading_deg - aside_deg);
    thread_local std::vector<Ahead> found;
    found.clear();
    eachNear(Vec2(feet), within_m, [&](const Piece& piece) {
        const EdgeKind kind = edges_[piece.edge].kind;
        const Vec2 from = Vec2(piece.from - feet);
        const Vec2 to = Vec2(piece.to - feet);
        const Vec2 way = to - from;
        const double length = glm::length(way);
        if (!kinds[static_cast<std::size_t>(kind)] || length <= 0.0 || crossed(way, -from) < -behindEdge_m * length) {
            return;
        }
        double begin = 0.0;
        double end = 1.0;
        if (!clipToCone(from, to, right, left, begin, end)) {
            return;
        }
        const double share = std::clamp(-glm::dot(from, way) / (length * length), begin, end);
        const Vec3 at = piece.from + share * (piece.to - piece.from);
        const double distance_m = glm::length(Vec2(at - feet));
        if (distance_m <= within_m && comesTo(feet, at)) {
            found.push_back({kind, at, distance_m, edges_[piece.edge].by_m, piece.edge});
        }
    });
    std::sort(found.begin(), found.end(), [](const Ahead& a, const Ahead& b) {
        return a.distance_m != b.distance_m ? a.distance_m < b.distance_m : a.edge < b.edge;
    });
    std::array<std::optional<Ahead>, edgeKindCount> nearest;
    for (const Ahead& one : found) {
        auto& ofKind = nearest[static_cast<std::size_t>(one.kind)];
        if (!ofKind && !hidden(feet, one.at, one.distance_m)) {
            ofKind = one;
        }
    }
    return nearest;
}

bool FloorEdges::hidden(const Vec3& feet, const Vec3& at, double within_m) const
{
    const Vec2 way = Vec2(at - feet);
    bool hides = false;
    eachNear(Vec2(feet), within_m, [&](const Piece& piece) {
        const EdgeKind kind = edges_[piece.edge].kind;
        if (hides || kind == EdgeKind::kerb || kind == EdgeKind::step) {
            return;
        }
        const Vec2 along = Vec2(piece.to - piece.from);
        const Vec2 from = Vec2(piece.from - feet);
        // Left behind from its floor's side.
        const double across = crossed(way, along);
        if (across < 1e-12) {
            return;
        }
        const double share = crossed(from, along) / across;
        const double there = crossed(from, way) / across;
        const bool meets = share > 0.0 && share * within_m < within_m - beforeItself_m && there >= 0.0 && there <= 1.0;
        hides = meets && comesTo(feet, piece.from + there * (piece.to - piece.from));
    });
    return hides;
}

} // namespace stone
