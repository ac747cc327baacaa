// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/solid.h"

#include <cmath>

/// What everything needs that draws shapes or fits them.
namespace stone
{

/// To the centimetre: nobody who draws means more, and a document full of digits reads badly.
inline double toCentimetre(double metres)
{
    return std::round(metres * 100.0) / 100.0;
}

/// A place of a shape's own as a place of the level.
inline Vec3 placed(const Solid::Frame& frame, const Vec3& own)
{
    return frame.at + frame.aside * own.x + frame.ahead * own.y + frame.up * own.z;
}

} // namespace stone
