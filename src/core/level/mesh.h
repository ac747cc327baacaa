// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace stone
{

/// A level's triangles in metres, Z up. Faces are wound counter-clockwise seen from outside.
struct Mesh {
    struct Triangle {
        std::array<std::uint32_t, 3> corners; ///< into points
        std::uint32_t material = 0;           ///< into materials
    };

    /// A named node of the file, where things can be put, with all triangles that hang on it.
    struct Node {
        std::string name;
        Vec3 at{0.0};
        std::size_t firstTriangle = 0;
        std::size_t triangleCount = 0;
        double heading_deg = 0.0; ///< of what it calls ahead, as cameras and lamps do: -Z of glTF
    };

    std::vector<Vec3> points;
    std::vector<Triangle> triangles;
    std::vector<std::string> materials; ///< names as in the file; "" for faces without one
    std::vector<Node> nodes;

    /// The node of this name, or null.
    const Node* node(const std::string& name) const;

    /// Lowest and highest corner; both zero for an empty mesh.
    std::array<Vec3, 2> bounds() const;
};

} // namespace stone
