// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/mesh.h"

#include <vector>

namespace stone
{

/// What lies below the Plan's cut, seen from above: floors, steps, platforms' edges, tables.
struct FloorPlan {
    struct Face {
        std::array<Vec2, 3> corners;
        double height_m = 0.0; ///< of its highest corner
        std::uint32_t material = 0;
    };
    struct Edge {
        Vec2 from;
        Vec2 to;
    };

    std::vector<Face> faces; ///< lowest first: painted in this order, what is higher covers what is lower
    std::vector<Edge> edges; ///< the outlines of level surfaces, not the lines between their triangles
};

/// The upward faces of a mesh whose highest corner lies in [low_m, high_m].
FloorPlan floorPlan(const Mesh& mesh, double low_m, double high_m);

} // namespace stone
