// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/shape.h"
#include "geometry/solid.h"
#include "level/fit_shape.h"

#include <vector>

namespace stone
{

/// A height of a shape that can be dragged on the Section.
struct HeightGrip {
    enum class Kind {
        top,    ///< of a box, a polygon, or a sphere
        bottom, ///< of a box or a polygon: its top stays
        end,    ///< of a capsule
        point   ///< of a line
    };

    Kind kind = Kind::top;
    std::size_t index = 0;
    Vec3 at{0.0}; ///< in the level

    bool operator==(const HeightGrip&) const = default;
};

/// The grips of a shape that stands in a frame. A mesh has none.
std::vector<HeightGrip> heightGripsOf(const Shape& shape, const Solid::Frame& frame);

/// The shape with one of its grips dragged to a height of the level. `thing` stands, as the document has it, where `frame`
/// is just now.
FittedShape raised(const FittedShape& thing, const Solid::Frame& frame, const HeightGrip& grip, double height_m);

} // namespace stone
