// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <glm/geometric.hpp>
#include <glm/vec2.hpp>
#include <glm/vec3.hpp>

#include <limits>
#include <numbers>

namespace stone
{

/// Positions and offsets in metres. Right-handed: +X east, +Y north, +Z up.
using Vec2 = glm::dvec2;
using Vec3 = glm::dvec3;

/// A distance, a way or a time without end.
constexpr double boundless = std::numeric_limits<double>::infinity();

constexpr double radians(double degrees)
{
    return degrees * (std::numbers::pi / 180.0);
}
constexpr double degrees(double radians)
{
    return radians * (180.0 / std::numbers::pi);
}

/// The same angle in [-180, 180). Any finite number of degrees.
double wrapDegrees(double angle_deg);

} // namespace stone
