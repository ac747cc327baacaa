// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/vec.h"
#include "project/ambience.h"

#include <vector>

namespace stone
{

/// An end of the range in which a sprinkle falls round the player, to be dragged on the Plan.
struct RangeGrip {
    enum class End {
        nearest,   ///< of the ring
        farthest,  ///< of the ring
        fromAngle, ///< of the ring
        toAngle,   ///< of the ring
        left,      ///< of the box
        right,     ///< of the box
        behind,    ///< of the box
        ahead      ///< of the box
    };

    End end = End::nearest;
    Vec2 at{0.0}; ///< metres aside (right) and ahead of the player, as the player faces

    bool operator==(const RangeGrip&) const = default;
};

/// None where a sprinkle does not fall round the player.
std::vector<RangeGrip> rangeGripsOf(const Sprinkling& sprinkling);

/// The sprinkle with an end of its range dragged to a place of the player's frame. No end passes the other one.
Sprinkling pulled(Sprinkling sprinkling, RangeGrip::End end, const Vec2& to);

} // namespace stone
