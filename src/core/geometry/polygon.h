// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace stone
{

/// Polygons in the plan: corners in order, either way round, not closed, concave allowed. Fewer than three corners hold
/// nothing.

/// Even-odd rule (Shimrat 1962). A point on the outline may count either way; see distanceToOutline() for that.
bool polygonContains(std::span<const Vec2> corners, const Vec2& point);

/// The point of an outline that is nearest.
Vec2 nearestOnOutline(std::span<const Vec2> corners, const Vec2& point);

/// Positive when the corners run counter-clockwise.
double signedArea(std::span<const Vec2> corners);

/// Whether two sides that are not neighbours meet.
bool crossesItself(std::span<const Vec2> corners);

/// Corner numbers of triangles that fill the polygon, counter-clockwise (clipping of ears, Meisters 1975). A polygon that
/// crosses itself is filled as well as may be.
std::vector<std::array<std::size_t, 3>> triangulate(std::span<const Vec2> corners);

/// The smallest convex polygon round some points, counter-clockwise (Andrew 1979).
std::vector<Vec2> hullOf(std::vector<Vec2> points);

} // namespace stone
