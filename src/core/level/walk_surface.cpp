// SPDX-License-Identifier: MPL-2.0
#include "level/walk_surface.h"

#include "geometry/nearest.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double cutGrid_m = 0.05;
constexpr double longestMove_m = 0.1;

} // namespace

const PlanCut& WalkSurface::wallsAt(double height_m)
{
    constexpr std::size_t mostCuts = 200;
    const long key = std::lround(height_m / cutGrid_m);
    auto found = cuts_.find(key);
    if (found == cuts_.end()) {
        if (cuts_.size() >= mostCuts) {
            cuts_.clear();
        }
        found = cuts_.emplace(key, cutter_->at(static_cast<double>(key) * cutGrid_m + 1e-3)).first;
    }
    return found->second;
}

Vec2 WalkSurface::pushedOut(const Vec2& at, double knees_m)
{
    Vec2 p = at;
    for (const Outline& outline : wallsAt(knees_m).outlines) {
        const std::size_t n = outline.points.size();
        const std::size_t edges = outline.closed ? n : n - 1;
        for (std::size_t i = 0; i < edges; ++i) {
            const Vec2& a = outline.points[i];
            const Vec2& b = outline.points[(i + 1) % n];
            if (std::max(a.x, b.x) < p.x - bodyRadius_m || std::min(a.x, b.x) > p.x + bodyRadius_m ||
                std::max(a.y, b.y) < p.y - bodyRadius_m || std::min(a.y, b.y) > p.y + bodyRadius_m) {
                continue;
            }
            const Vec2 offset = p - nearestOnSegment(a, b, p);
            const double distance = glm::length(offset);
            if (distance < bodyRadius_m && distance > 1e-9) {
                p += offset * (bodyRadius_m / distance - 1.0);
            }
        }
    }
    return p;
}

/// So fast that it comes to rest at that height: v^2 = 2 g h.
void Leap::jump(double height_m, double gravity_m_s2)
{
    if (!aloft()) {
        rise_m_s = std::sqrt(2.0 * gravity_m_s2 * height_m);
    }
}

void Leap::lose(double drop_m)
{
    if (aloft() || drop_m > WalkSurface::highestStep_m) {
        above_m = std::max(above_m + drop_m, 0.0);
        fallen_m += drop_m;
    }
}

std::optional<double> Leap::pass(double seconds, double gravity_m_s2)
{
    if (!aloft()) {
        return {};
    }
    above_m += (rise_m_s - gravity_m_s2 * seconds / 2.0) * seconds;
    rise_m_s -= gravity_m_s2 * seconds;
    // What rises has left the ground, however little; rounding would put it down again.
    if (above_m > 0.0 || rise_m_s > 0.0) {
        return {};
    }
    const double fallen = fallen_m;
    *this = {};
    return fallen;
}

/// The height of the floor that carries feet, no more below them than this gait takes.
std::optional<double> WalkSurface::floor_m(const Vec3& feet, const Gait& gait) const
{
    const auto floor = ground_->floorBelow(feet + Vec3{0.0, 0.0, gait.step_m}, gait.step_m + gait.mostFall_m);
    return floor ? std::optional(floor->height_m) : std::nullopt;
}

Vec3 WalkSurface::onFloor(const Vec3& feet) const
{
    return {feet.x, feet.y, floor_m(feet, daring).value_or(feet.z)};
}

Vec3 WalkSurface::step(const Vec3& feet, const Vec2& way, const Gait& gait)
{
    return moved(feet, way, gait, false);
}

Vec3 WalkSurface::leap(const Vec3& feet, const Vec2& way)
{
    return moved(feet, way, leaping, true);
}

double WalkSurface::freeAbove(const Vec3& head, double within_m) const
{
    return ground_->distanceTo(head, {0.0, 0.0, 1.0}, within_m).value_or(within_m);
}

Vec3 WalkSurface::moved(const Vec3& feet, const Vec2& way, const Gait& gait, bool inTheAir)
{
    const auto below = floor_m(feet, daring);
    // Short moves: none is longer than the body is wide, so that no wall is passed between two of them.
    const int moves = std::max(1, static_cast<int>(std::ceil(glm::length(way) / longestMove_m)));
    Vec3 at = inTheAir ? Vec3{feet.x, feet.y, below.value_or(feet.z)} : feet;
    for (int i = 0; i < moves; ++i) {
        const double height = inTheAir ? feet.z : at.z;
        Vec2 next = Vec2{at.x, at.y} + way / static_cast<double>(moves);
        // Twice: out of one wall may be into its neighbour in a corner.
        next = pushedOut(pushedOut(next, height + gait.knee_m), height + gait.knee_m);
        const auto floor = floor_m({next.x, next.y, height}, gait);
        if (below && !floor) {
            return at;
        }
        at = {next.x, next.y, below ? *floor : at.z};
    }
    return at;
}

} // namespace stone
