// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/obstacles.h"

#include <span>
#include <vector>

namespace stone
{

/// A way between two places that leaves the straight line to one side to get past what stands on it.
struct PastWay {
    double length_m = 0.0;
    std::vector<Vec3> bends; ///< in order, without the two ends
};

/// The way past the walls that a ray crosses, in the plane of that line and of `aside`, a unit vector across it:
/// each wall is left behind where a ray beside the line first gets by, up to `furthest_m` away, and the string over these
/// places is pulled tight. Walls that touch are passed together. None where there is no such way.
std::optional<PastWay> wayPast(const Obstacles& obstacles, const Obstacles::Ray& ray,
                               std::span<const Obstacles::Crossing> walls, const Vec3& aside, double furthest_m);

} // namespace stone
