// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/walks/way_on_floor.h"

#include "geometry/drawing.h"
#include "level/walk_surface.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double stride_m = 0.1;
constexpr double flat_m = 0.06; ///< so far from a straight line the floor may lie before it gets a point
constexpr double longest_m = 500.0;

Vec3 placeToCentimetre(const Vec3& p)
{
    return {toCentimetre(p.x), toCentimetre(p.y), toCentimetre(p.z)};
}

/// Where the feet are on the way from one place to another, stride by stride; empty where they do not get there.
std::vector<Vec3> strides(WalkSurface& surface, const Vec3& from, const Vec3& to)
{
    std::vector<Vec3> feet{from};
    const Vec2 way{to.x - from.x, to.y - from.y};
    const double length = glm::length(way);
    if (length > longest_m) {
        return {};
    }
    const int count = std::max(1, static_cast<int>(std::ceil(length / stride_m)));
    for (int i = 1; i <= count; ++i) {
        const Vec2 wanted = Vec2{from.x, from.y} + way * (static_cast<double>(i) / count);
        const Vec3& now = feet.back();
        const Vec3 next = surface.step(now, wanted - Vec2{now.x, now.y});
        if (std::hypot(next.x - wanted.x, next.y - wanted.y) > stride_m / 2.0) {
            return {};
        }
        feet.push_back(next);
    }
    return feet;
}

/// Of the strides those at which the floor turns up or down.
void addTurns(const std::vector<Vec3>& feet, std::size_t from, std::size_t to, std::vector<Vec3>& points)
{
    std::size_t furthest = from;
    double off = flat_m;
    for (std::size_t i = from + 1; i < to; ++i) {
        const double share = static_cast<double>(i - from) / static_cast<double>(to - from);
        const double here = std::abs(feet[i].z - (feet[from].z + (feet[to].z - feet[from].z) * share));
        if (here > off) {
            off = here;
            furthest = i;
        }
    }
    if (furthest != from) {
        addTurns(feet, from, furthest, points);
        points.push_back(placeToCentimetre(feet[furthest]));
        addTurns(feet, furthest, to, points);
    }
}

} // namespace

Vec3 onFloorBelow(const LoadedLevel& level, const Vec3& place)
{
    constexpr double within_m = 1e4;
    const auto floor = level.ground != nullptr ? level.ground->floorBelow(place, within_m) : std::nullopt;
    return floor ? Vec3{place.x, place.y, toCentimetre(floor->height_m)} : place;
}

Vec3 onFloorNear(const LoadedLevel& level, const Vec3& place)
{
    if (level.ground == nullptr) {
        return place;
    }
    constexpr double above_m = 1.0;
    const auto floor = level.ground->floorBelow(place + Vec3{0.0, 0.0, above_m}, above_m + WalkSurface::mostFall_m);
    return floor ? Vec3{place.x, place.y, toCentimetre(floor->height_m)} : place;
}

WayOnFloor wayOnFloor(const LoadedLevel& level, const std::vector<Vec3>& places)
{
    WayOnFloor way;
    if (level.cutter == nullptr || level.ground == nullptr || places.empty()) {
        way.points = places;
        return way;
    }
    WalkSurface surface(*level.cutter, *level.ground);
    way.points.push_back(onFloorNear(level, places.front()));
    for (std::size_t i = 1; i < places.size(); ++i) {
        const std::vector<Vec3> feet = strides(surface, way.points.back(), places[i]);
        if (feet.empty()) {
            ++way.blocked;
            way.points.push_back(onFloorNear(level, places[i]));
        } else {
            addTurns(feet, 0, feet.size() - 1, way.points);
            way.points.push_back(placeToCentimetre(Vec3{places[i].x, places[i].y, feet.back().z}));
        }
    }
    return way;
}

} // namespace stone
