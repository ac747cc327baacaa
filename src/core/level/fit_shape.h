// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/shape.h"
#include "level/mesh.h"

namespace stone
{

/// A shape that was put round a part of a level.
struct FittedShape {
    Shape shape;
    Vec3 at{0.0};             ///< of its origin
    double heading_deg = 0.0; ///< clockwise from north
};

/// Puts a shape round a node of a level, which must have triangles. `kind`: which one, by its place in Shape.
///
/// A box stands on the rectangle of the least area, one side of which lies along the convex hull (H. Freeman, R. Shapira,
/// CACM 18, 1975). A sphere is the smallest but for a percent (M. Badoiu, K. Clarkson, SODA 2003). A capsule and a line run
/// along the longest side of that box. A polygon is the outline of the node at half its height, or where that is open, its
/// convex hull. A mesh is the node itself.
FittedShape fittedTo(const Mesh& mesh, const Mesh::Node& node, std::size_t kind);

/// The part of a level that somebody points at on a sheet which shows heights from low_m to high_m: of those over or under
/// the place the one with the smallest footprint. Null when there is none.
const Mesh::Node* partAt(const Mesh& mesh, const Vec2& place, double low_m, double high_m);

} // namespace stone
