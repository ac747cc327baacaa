// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/edge_finder.h"

#include <functional>

/// For findFloorEdges(): what borders on what, and straight pieces joined to edges.
namespace stone
{

/// One side of a triangle, by its ends welded at a tenth of a millimetre.
struct TriangleSide {
    std::uint32_t low;  ///< numbers of the welded ends
    std::uint32_t high; ///< > low
    std::uint32_t triangle;
    std::uint8_t side; ///< from its corner of that number to the next
    bool forwards;     ///< it goes from `low` to `high`

    bool sameLine(const TriangleSide& other) const { return low == other.low && high == other.high; }
};

/// The sides of those triangles, sorted so that those along the same line follow each other.
std::vector<TriangleSide> sidesOf(const Mesh& mesh, const std::function<bool(std::uint32_t triangle)>& wanted);

/// A straight piece of an edge, with its floor on the left.
struct EdgeLine {
    EdgeKind kind;
    Vec3 from;
    Vec3 to;
    double by_m;
    std::uint32_t material;
    std::uint32_t floor; ///< triangle
};

/// Pieces of a kind that lie on each other made one, and those that follow each other joined where one falls to a ground in
/// both or in neither; points within straight runs left
/// out. In the order of their first points, from west to east.
std::vector<FloorEdge> edgesOf(const std::vector<EdgeLine>& lines);

} // namespace stone
