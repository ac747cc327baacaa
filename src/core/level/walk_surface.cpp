#include "level/walk_surface.h"

#include "geometry/nearest.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Knees: above what is stepped over, below sills and counters.
constexpr double kneeAtWall_m = 0.5;
constexpr double cutGrid_m = 0.05;
constexpr double gravity_m_s2 = 9.81;
constexpr double jump_m_s = 3.2; ///< carries half a metre high
/// Floors farther down carry nobody.
constexpr double farDown_m = 1e4;
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

Vec2 WalkSurface::pushedOut(const Vec2& at, double feet_m)
{
    Vec2 p = at;
    for (const Outline& outline : wallsAt(feet_m + kneeAtWall_m).outlines) {
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

void Leap::jump()
{
    if (!aloft()) {
        rise_m_s = jump_m_s;
    }
}

void Leap::lose(double drop_m)
{
    if (aloft() || drop_m > WalkSurface::highestStep_m) {
        above_m = std::max(above_m + drop_m, 0.0);
    }
}

void Leap::pass(double seconds)
{
    if (!aloft()) {
        return;
    }
    rise_m_s -= gravity_m_s2 * seconds;
    above_m += rise_m_s * seconds;
    if (above_m <= 0.0) {
        *this = {};
    }
}

/// The height of the floor that carries feet, no more than so far below them.
std::optional<double> WalkSurface::floor_m(const Vec3& feet, double down_m) const
{
    const auto floor = ground_->floorBelow(feet + Vec3{0.0, 0.0, highestStep_m}, highestStep_m + down_m);
    return floor ? std::optional(floor->height_m) : std::nullopt;
}

Vec3 WalkSurface::onFloor(const Vec3& feet) const
{
    return {feet.x, feet.y, floor_m(feet, farDown_m).value_or(feet.z)};
}

Vec3 WalkSurface::step(const Vec3& feet, const Vec2& way)
{
    const bool carried = floor_m(feet, farDown_m).has_value();
    // Short moves: none is longer than the body is wide, so that no wall is passed between two of them.
    const int moves = std::max(1, static_cast<int>(std::ceil(glm::length(way) / longestMove_m)));
    Vec3 at = feet;
    for (int i = 0; i < moves; ++i) {
        Vec2 next = Vec2{at.x, at.y} + way / static_cast<double>(moves);
        // Twice: out of one wall may be into its neighbour in a corner.
        next = pushedOut(pushedOut(next, at.z), at.z);
        const Vec3 moved{next.x, next.y, at.z};
        if (carried) {
            const auto floor = floor_m(moved, mostFall_m);
            if (!floor) {
                return at;
            }
            at = {moved.x, moved.y, *floor};
        } else {
            at = moved;
        }
    }
    return at;
}

} // namespace stone
