#include "level/walk_surface.h"

#include "geometry/nearest.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Knees: above what is stepped over, below sills and counters.
constexpr double knee_m = 0.5;
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

Vec2 WalkSurface::pushedOut(const Vec2& at, double feet_m)
{
    Vec2 p = at;
    for (const Outline& outline : wallsAt(feet_m + knee_m).outlines) {
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

Vec3 WalkSurface::onFloor(const Vec3& feet) const
{
    double floor_m = 0.0;
    return cutter_->floorBelow(feet, highestStep_m, floor_m) ? Vec3{feet.x, feet.y, floor_m} : feet;
}

Vec3 WalkSurface::step(const Vec3& feet, const Vec2& way)
{
    double floor_m = 0.0;
    const bool carried = cutter_->floorBelow(feet, highestStep_m, floor_m);
    // Short moves: none is longer than the body is wide, so that no wall is passed between two of them.
    const int moves = std::max(1, static_cast<int>(std::ceil(glm::length(way) / longestMove_m)));
    Vec3 at = feet;
    for (int i = 0; i < moves; ++i) {
        Vec2 next = Vec2{at.x, at.y} + way / static_cast<double>(moves);
        // Twice: out of one wall may be into its neighbour in a corner.
        next = pushedOut(pushedOut(next, at.z), at.z);
        const Vec3 moved{next.x, next.y, at.z};
        if (carried) {
            if (!cutter_->floorBelow(moved, highestStep_m, floor_m) || floor_m < at.z - mostFall_m) {
                return at;
            }
            at = {moved.x, moved.y, floor_m};
        } else {
            at = moved;
        }
    }
    return at;
}

} // namespace stone
