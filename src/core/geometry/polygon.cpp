// SPDX-License-Identifier: MPL-2.0
#include "geometry/polygon.h"

#include "geometry/nearest.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace stone
{

namespace
{

double turn(const Vec2& a, const Vec2& b, const Vec2& c)
{
    return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
}

bool inTriangle(const Vec2& p, const Vec2& a, const Vec2& b, const Vec2& c)
{
    return turn(a, b, p) >= 0.0 && turn(b, c, p) >= 0.0 && turn(c, a, p) >= 0.0;
}

} // namespace

bool polygonContains(std::span<const Vec2> corners, const Vec2& point)
{
    bool inside = false;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const Vec2& a = corners[i];
        const Vec2& b = corners[(i + 1) % corners.size()];
        if ((a.y > point.y) != (b.y > point.y) && point.x < a.x + (point.y - a.y) / (b.y - a.y) * (b.x - a.x)) {
            inside = !inside;
        }
    }
    return inside;
}

Vec2 nearestOnOutline(std::span<const Vec2> corners, const Vec2& point)
{
    Vec2 best = corners.empty() ? point : corners.front();
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const Vec2 on = nearestOnSegment(corners[i], corners[(i + 1) % corners.size()], point);
        if (const double distance = glm::length(point - on); distance < least) {
            least = distance;
            best = on;
        }
    }
    return best;
}

double signedArea(std::span<const Vec2> corners)
{
    double twice = 0.0;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const Vec2& a = corners[i];
        const Vec2& b = corners[(i + 1) % corners.size()];
        twice += a.x * b.y - b.x * a.y;
    }
    return twice / 2.0;
}

bool crossesItself(std::span<const Vec2> corners)
{
    const std::size_t n = corners.size();
    const auto apart = [](double one, double other) { return (one > 0.0 && other < 0.0) || (one < 0.0 && other > 0.0); };
    for (std::size_t i = 0; i < n; ++i) {
        for (std::size_t j = i + 2; j < n; ++j) {
            if (i == 0 && j + 1 == n) {
                continue;
            }
            const Vec2& a = corners[i];
            const Vec2& b = corners[i + 1];
            const Vec2& c = corners[j];
            const Vec2& d = corners[(j + 1) % n];
            if (apart(turn(a, b, c), turn(a, b, d)) && apart(turn(c, d, a), turn(c, d, b))) {
                return true;
            }
        }
    }
    return false;
}

std::vector<std::array<std::size_t, 3>> triangulate(std::span<const Vec2> corners)
{
    std::vector<std::array<std::size_t, 3>> triangles;
    std::vector<std::size_t> left(corners.size());
    std::iota(left.begin(), left.end(), std::size_t{0});
    if (signedArea(corners) < 0.0) {
        std::reverse(left.begin(), left.end());
    }
    while (left.size() >= 3) {
        const std::size_t n = left.size();
        const auto isEar = [&](std::size_t i) {
            const Vec2& a = corners[left[(i + n - 1) % n]];
            const Vec2& b = corners[left[i]];
            const Vec2& c = corners[left[(i + 1) % n]];
            return turn(a, b, c) > 0.0 && std::none_of(left.begin(), left.end(), [&](std::size_t other) {
                       const Vec2& p = corners[other];
                       return p != a && p != b && p != c && inTriangle(p, a, b, c);
                   });
        };
        std::size_t ear = 0;
        while (ear < n && !isEar(ear)) {
            ++ear;
        }
        if (ear == n) {
            // Three in a line, or an outline that crosses itself: give up one corner and go on.
            ear = 0;
        }
        triangles.push_back({left[(ear + n - 1) % n], left[ear], left[(ear + 1) % n]});
        left.erase(left.begin() + static_cast<std::ptrdiff_t>(ear));
    }
    return triangles;
}

std::vector<Vec2> hullOf(std::vector<Vec2> points)
{
    std::sort(points.begin(), points.end(), [](const Vec2& a, const Vec2& b) { return a.x != b.x ? a.x < b.x : a.y < b.y; });
    points.erase(std::unique(points.begin(), points.end()), points.end());
    if (points.size() < 3) {
        return points;
    }
    std::vector<Vec2> hull;
    const auto chain = [&hull](auto first, auto last) {
        const std::size_t base = hull.size();
        for (auto it = first; it != last; ++it) {
            while (hull.size() >= base + 2 && turn(hull[hull.size() - 2], hull.back(), *it) <= 0.0) {
                hull.pop_back();
            }
            hull.push_back(*it);
        }
        hull.pop_back();
    };
    chain(points.begin(), points.end());
    chain(points.rbegin(), points.rend());
    return hull;
}

} // namespace stone
