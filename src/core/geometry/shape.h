// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

#include <string>
#include <variant>
#include <vector>

/// Shapes as the document holds them: plain values in metres, about an origin of their own. Whoever has a shape says
/// where that origin is and which way it is turned; see Solid.
namespace stone
{

/// A box about its origin in the plan, standing on it: from 0 up to its height.
struct Box {
    Vec3 size_m{6.0, 4.0, 3.0}; ///< aside, ahead, up; >= 0

    bool operator==(const Box&) const = default;
};

/// A sphere about its origin.
struct Ball {
    double radius_m = 2.0; ///< >= 0

    bool operator==(const Ball&) const = default;
};

/// All that is within a radius of a straight line.
struct Capsule {
    Vec3 from{0.0, -2.0, 0.0};
    Vec3 to{0.0, 2.0, 0.0};
    double radius_m = 1.0; ///< >= 0

    bool operator==(const Capsule&) const = default;
};

/// A polygon, concave allowed: of the plan, from 0 up to a height; or standing on its edge, corners aside and up, as deep as
/// that height, half of it ahead and half behind.
struct Prism {
    std::vector<Vec2> corners{{-3.0, -2.0}, {3.0, -2.0}, {3.0, 2.0}, {-3.0, 2.0}};
    double height_m = 3.0; ///< >= 0
    bool standing = false;

    bool operator==(const Prism&) const = default;
};

/// All that is within half a width of a line through points. Without width it holds nothing.
struct Ribbon {
    std::vector<Vec3> points{{-3.0, 0.0, 0.0}, {3.0, 0.0, 0.0}};
    double width_m = 0.5; ///< >= 0
    bool closed = false;  ///< the last point joins the first

    bool operator==(const Ribbon&) const = default;
};

/// A closed mesh: a node of the level's geometry, or triangles of its own.
struct Hull {
    struct Triangle {
        int a, b, c; ///< into points, counter-clockwise seen from outside
        bool operator==(const Triangle&) const = default;
    };
    std::string node; ///< of the level; its triangles count, where they are. Empty: those below
    std::vector<Vec3> points;
    std::vector<Triangle> triangles;

    bool operator==(const Hull&) const = default;
};

using Shape = std::variant<Box, Ball, Capsule, Prism, Ribbon, Hull>;

} // namespace stone
