// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/shape.h"
#include "geometry/solid.h"

#include <optional>
#include <vector>

namespace stone
{

/// A place of a shape that can be dragged on the Plan.
struct ShapeGrip {
    enum class Kind {
        corner, ///< of an outline, or a point of a line
        side,   ///< middle of one: dragging it makes a corner there
        size,   ///< of a box or a radius
        turn    ///< ahead of it: dragging it round turns the shape
    };

    Kind kind = Kind::corner;
    std::size_t index = 0;
    Vec3 at{0.0}; ///< in the level

    bool operator==(const ShapeGrip&) const = default;
};

/// The grips of a shape that stands in a frame. A mesh has none. `turnAway_m`: how far ahead of it the one to turn it lies.
std::vector<ShapeGrip> gripsOf(const Shape& shape, const Solid::Frame& frame, double turnAway_m);

/// The shape with one of its grips, not the one to turn it, dragged to a place of the level, in the plan. A side becomes a
/// corner of index + 1.
Shape dragged(const Shape& shape, const Solid::Frame& frame, const ShapeGrip& grip, const Vec2& to);

/// A box of which a corner was dragged to a place of the level while the opposite one stays: its middle goes `by`. Nothing for
/// other shapes and grips.
struct DraggedBox {
    Shape shape;
    Vec3 by;
};
std::optional<DraggedBox> boxFromFarCorner(const Shape& shape, const Solid::Frame& frame, const ShapeGrip& grip,
                                           const Vec2& to);

/// The shape without a corner; nothing when it needs them all.
std::optional<Shape> withoutCorner(const Shape& shape, std::size_t index);

} // namespace stone
