// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/solid.h"
#include "geometry/vec.h"

#include <cmath>

namespace stone
{

/// Where the thing that carries something is and how it is turned. What does not ride stands still at the origin.
struct Carriage {
    Vec3 at{0.0};
    double heading_deg = 0.0;
    bool moves = false;

    /// A direction of the carried thing's own, in level coordinates.
    Vec3 turned(const Vec3& own) const
    {
        const double c = std::cos(radians(heading_deg));
        const double s = std::sin(radians(heading_deg));
        return moves ? Vec3{own.x * c + own.y * s, own.y * c - own.x * s, own.z} : own;
    }
    Vec3 placed(const Vec3& own) const { return moves ? at + turned(own) : own; }
    /// The other way round: a place in the level as the carried thing sees it.
    Vec3 own(const Vec3& place) const
    {
        if (!moves) {
            return place;
        }
        const Vec3 d = place - at;
        const double c = std::cos(radians(heading_deg));
        const double s = std::sin(radians(heading_deg));
        return {d.x * c - d.y * s, d.y * c + d.x * s, d.z};
    }
};

/// The axes of a thing that stands somewhere and faces a heading.
inline Solid::Frame frameAt(const Vec3& at, double heading_deg)
{
    const Carriage turn{at, heading_deg, true};
    return {at, turn.turned({1.0, 0.0, 0.0}), turn.turned({0.0, 1.0, 0.0}), {0.0, 0.0, 1.0}};
}

} // namespace stone
