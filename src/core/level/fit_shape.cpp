// SPDX-License-Identifier: MPL-2.0
#include "level/fit_shape.h"

#include "geometry/drawing.h"
#include "geometry/polygon.h"
#include "level/plan_cut.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace stone
{

namespace
{

constexpr double straight_m = 0.02; ///< corners that stand out by less are left out of a polygon
constexpr std::size_t mostCorners = 48;

std::vector<Vec3> pointsOf(const Mesh& mesh, const Mesh::Node& node)
{
    std::vector<Vec3> points;
    for (std::size_t i = 0; i < node.triangleCount; ++i) {
        for (const std::uint32_t corner : mesh.triangles[node.firstTriangle + i].corners) {
            points.push_back(mesh.points[corner]);
        }
    }
    return points;
}

/// An upright box round points, by the directions of its sides in the plan.
struct Bounds {
    Vec2 ahead{0.0, 1.0};
    Vec2 low{0.0}; ///< aside, ahead
    Vec2 high{0.0};
    double bottom = 0.0;
    double top = 0.0;

    Vec2 aside() const { return {ahead.y, -ahead.x}; }
    Vec2 size() const { return high - low; }
    Vec2 middle() const
    {
        const Vec2 own = (low + high) / 2.0;
        return aside() * own.x + ahead * own.y;
    }
    double heading_deg() const { return std::round(degrees(std::atan2(ahead.x, ahead.y)) * 10.0) / 10.0; }
};

Bounds boundsOf(const std::vector<Vec3>& points)
{
    std::vector<Vec2> plan;
    double bottom = std::numeric_limits<double>::infinity();
    double top = -bottom;
    for (const Vec3& p : points) {
        plan.emplace_back(p.x, p.y);
        bottom = std::min(bottom, p.z);
        top = std::max(top, p.z);
    }
    const std::vector<Vec2> hull = hullOf(std::move(plan));
    Bounds best;
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < hull.size(); ++i) {
        const Vec2 side = hull[(i + 1) % hull.size()] - hull[i];
        if (glm::length(side) < 1e-9) {
            continue;
        }
        // Whichever side it is, ahead points as near to north as it can.
        Vec2 ahead = glm::normalize(side);
        while (ahead.y < std::abs(ahead.x) - 1e-12) {
            ahead = {ahead.y, -ahead.x};
        }
        Bounds now{.ahead = ahead, .low = Vec2{1e300}, .high = Vec2{-1e300}};
        for (const Vec2& p : hull) {
            const Vec2 own{glm::dot(p, now.aside()), glm::dot(p, ahead)};
            now.low = glm::min(now.low, own);
            now.high = glm::max(now.high, own);
        }
        if (const double area = now.size().x * now.size().y; area < least - 1e-9) {
            least = area;
            best = now;
        }
    }
    best.bottom = bottom;
    best.top = top;
    return best;
}

FittedShape ballRound(const std::vector<Vec3>& points)
{
    Vec3 centre = points.front();
    double radius = 0.0;
    for (int step = 1; step <= 400; ++step) {
        const auto farthest = std::max_element(points.begin(), points.end(), [&](const Vec3& a, const Vec3& b) {
            return glm::length(a - centre) < glm::length(b - centre);
        });
        radius = glm::length(*farthest - centre);
        centre += (*farthest - centre) / (step + 1.0);
    }
    const Vec3 at{toCentimetre(centre.x), toCentimetre(centre.y), toCentimetre(centre.z)};
    for (const Vec3& p : points) {
        radius = std::max(radius, glm::length(p - at));
    }
    return {Ball{std::ceil(radius * 100.0) / 100.0}, at, 0.0};
}

/// About the middle of the bounds, along their longest side.
FittedShape capsuleRound(const std::vector<Vec3>& points, const Bounds& bounds, const Vec3& middle)
{
    const Vec3 sides{bounds.size().x, bounds.size().y, bounds.top - bounds.bottom};
    const Vec3 axes[] = {{bounds.aside(), 0.0}, {bounds.ahead, 0.0}, {0.0, 0.0, 1.0}};
    const int longest = sides.z >= std::max(sides.x, sides.y) ? 2 : sides.x > sides.y ? 0 : 1;
    const Vec3 axis = axes[longest];
    const auto off = [&](const Vec3& p) {
        const Vec3 way = p - middle;
        return glm::length(way - axis * glm::dot(way, axis));
    };
    double radius = 0.0;
    for (const Vec3& p : points) {
        radius = std::max(radius, off(p));
    }
    double half = 0.0;
    for (const Vec3& p : points) {
        const double round = std::sqrt(std::max(radius * radius - off(p) * off(p), 0.0));
        half = std::max(half, std::abs(glm::dot(p - middle, axis)) - round);
    }
    Vec3 own{0.0};
    own[longest] = toCentimetre(half);
    return {Capsule{-own, own, std::ceil(radius * 100.0) / 100.0}, middle, bounds.heading_deg()};
}

/// Corners without which an outline is nearly the same (D. Douglas, T. Peucker, 1973).
void keepCorners(const std::vector<Vec2>& points, std::size_t from, std::size_t to, double beside_m, std::vector<Vec2>& kept)
{
    const Vec2 way = points[to % points.size()] - points[from];
    std::size_t worst = from;
    double most = beside_m;
    for (std::size_t i = from + 1; i < to; ++i) {
        const Vec2 p = points[i] - points[from];
        const double length = glm::length(way);
        const double off = length > 1e-9 ? std::abs(way.x * p.y - way.y * p.x) / length : glm::length(p);
        if (off > most) {
            most = off;
            worst = i;
        }
    }
    if (worst != from) {
        keepCorners(points, from, worst, beside_m, kept);
        keepCorners(points, worst, to, beside_m, kept);
    } else {
        kept.push_back(points[from]);
    }
}

std::vector<Vec2> simplified(const std::vector<Vec2>& points)
{
    double beside_m = straight_m;
    std::vector<Vec2> kept = points;
    do {
        kept.clear();
        const std::size_t half = points.size() / 2;
        keepCorners(points, 0, half, beside_m, kept);
        keepCorners(points, half, points.size(), beside_m, kept);
        beside_m *= 2.0;
    } while (kept.size() > mostCorners);
    return kept;
}

std::vector<Vec2> outlineOf(const Mesh& mesh, const Mesh::Node& node, const Bounds& bounds, const std::vector<Vec3>& points)
{
    Mesh part;
    part.points = mesh.points;
    part.triangles.assign(mesh.triangles.begin() + static_cast<std::ptrdiff_t>(node.firstTriangle),
                          mesh.triangles.begin() + static_cast<std::ptrdiff_t>(node.firstTriangle + node.triangleCount));
    std::vector<Vec2> largest;
    for (const Outline& outline : PlanCutter(part).at((bounds.bottom + bounds.top) / 2.0).outlines) {
        if (outline.closed && std::abs(signedArea(outline.points)) > std::abs(signedArea(largest))) {
            largest = outline.points;
        }
    }
    if (largest.size() >= 3) {
        return simplified(largest);
    }
    std::vector<Vec2> plan;
    for (const Vec3& p : points) {
        plan.emplace_back(p.x, p.y);
    }
    return simplified(hullOf(std::move(plan)));
}

/// Whether a triangle lies over or under a place.
bool covers(const Mesh& mesh, const Mesh::Triangle& triangle, const Vec2& place)
{
    double sides[3];
    for (std::size_t i = 0; i < 3; ++i) {
        const Vec3& a = mesh.points[triangle.corners[i]];
        const Vec3& b = mesh.points[triangle.corners[(i + 1) % 3]];
        sides[i] = (b.x - a.x) * (place.y - a.y) - (b.y - a.y) * (place.x - a.x);
    }
    const bool left = sides[0] >= 0.0 && sides[1] >= 0.0 && sides[2] >= 0.0;
    const bool right = sides[0] <= 0.0 && sides[1] <= 0.0 && sides[2] <= 0.0;
    return (left || right) && sides[0] + sides[1] + sides[2] != 0.0;
}

} // namespace

const Mesh::Node* partAt(const Mesh& mesh, const Vec2& place, double low_m, double high_m)
{
    const Mesh::Node* best = nullptr;
    double least = std::numeric_limits<double>::infinity();
    for (const Mesh::Node& node : mesh.nodes) {
        bool covered = false;
        Vec3 low{std::numeric_limits<double>::infinity()};
        Vec3 high = -low;
        for (std::size_t i = 0; i < node.triangleCount; ++i) {
            const Mesh::Triangle& triangle = mesh.triangles[node.firstTriangle + i];
            covered = covered || covers(mesh, triangle, place);
            for (const std::uint32_t corner : triangle.corners) {
                low = glm::min(low, mesh.points[corner]);
                high = glm::max(high, mesh.points[corner]);
            }
        }
        const double footprint = (high.x - low.x) * (high.y - low.y);
        if (covered && low.z <= high_m && high.z >= low_m && footprint < least) {
            least = footprint;
            best = &node;
        }
    }
    return best;
}

FittedShape fittedTo(const Mesh& mesh, const Mesh::Node& node, std::size_t kind)
{
    const std::vector<Vec3> points = pointsOf(mesh, node);
    const Bounds bounds = boundsOf(points);
    const Vec2 middle = bounds.middle();
    const Vec3 stand{toCentimetre(middle.x), toCentimetre(middle.y), toCentimetre(bounds.bottom)};
    const double height = toCentimetre(bounds.top - stand.z);
    switch (kind) {
    case 0: return {Box{{toCentimetre(bounds.size().x), toCentimetre(bounds.size().y), height}}, stand, bounds.heading_deg()};
    case 1: return ballRound(points);
    case 2: return capsuleRound(points, bounds, {stand.x, stand.y, toCentimetre((bounds.bottom + bounds.top) / 2.0)});
    case 3: {
        Prism prism{{}, height};
        for (const Vec2& p : outlineOf(mesh, node, bounds, points)) {
            prism.corners.push_back({toCentimetre(p.x - stand.x), toCentimetre(p.y - stand.y)});
        }
        return {std::move(prism), stand, 0.0};
    }
    case 4: {
        const bool aside = bounds.size().x > bounds.size().y;
        const double width = aside ? bounds.size().y : bounds.size().x;
        const double half = toCentimetre(std::max(bounds.size().x, bounds.size().y) / 2.0);
        const double up = toCentimetre(height / 2.0);
        const Vec3 end = aside ? Vec3{half, 0.0, up} : Vec3{0.0, half, up};
        return {Ribbon{{{-end.x, -end.y, up}, end}, toCentimetre(width), false}, stand, bounds.heading_deg()};
    }
    default: return {Hull{node.name, {}, {}}, stand, 0.0};
    }
}

} // namespace stone
