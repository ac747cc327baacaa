// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

namespace stone
{

/// Which way somebody looks at an upright sheet: what is to the right on it is east, or north.
enum class Looking { north, west };

/// Where a place lies on an upright sheet: along it (east or north), and up.
inline Vec2 onSheet(Looking looking, const Vec3& p)
{
    return {looking == Looking::north ? p.x : p.y, p.z};
}
/// How far a place lies across the sheet: its northing, or its easting.
inline double across(Looking looking, const Vec3& p)
{
    return looking == Looking::north ? p.y : p.x;
}
/// A way along the sheet and up as a way in the level.
inline Vec3 fromSheet(Looking looking, const Vec2& way)
{
    return looking == Looking::north ? Vec3{way.x, 0.0, way.y} : Vec3{0.0, way.x, way.y};
}
/// A place on the sheet that stands so far across.
inline Vec3 fromSheet(Looking looking, const Vec2& place, double across_m)
{
    return looking == Looking::north ? Vec3{place.x, across_m, place.y} : Vec3{across_m, place.x, place.y};
}
/// The heading of somebody who looks into the sheet, degrees.
inline double headingInto(Looking looking)
{
    return looking == Looking::north ? 0.0 : -90.0;
}

} // namespace stone
