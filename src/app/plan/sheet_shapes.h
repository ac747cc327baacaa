// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/plan/drawn_shape.h"
#include "geometry/upright_sheet.h"

#include <optional>
#include <variant>

namespace stone
{

/// A shape as it lies on an upright sheet, so that it is taken hold of there as shapes are on the Plan: its frame is along the
/// sheet, up, and towards whoever looks at it.
struct FlatShape {
    Shape shape;
    Solid::Frame frame;
    Vec3 shift{0.0}; ///< of its place in the level, where it is not in the middle of its depth
};

/// What is neither round nor a line becomes a prism that stands on the sheet. A mesh cannot be laid there.
std::optional<FlatShape> laidFlat(const DrawnShape& drawn, Looking looking);

/// The other way: the shape about the same place, for something that faces into the sheet.
Shape stoodUp(const Shape& flat);

/// What is put on an upright sheet faces into it, and its outline stands, as deep as is usual.
template <class Thing> void standUp(Thing& thing, Looking looking)
{
    constexpr double deep_m = 6.0;
    thing.heading_deg = headingInto(looking);
    if (auto* prism = std::get_if<Prism>(&thing.shape)) {
        prism->standing = true;
        prism->height_m = deep_m;
    }
}

} // namespace stone
