#pragma once

#include "level/plan_cut.h"

namespace stone
{

/// Which way somebody looks at an upright cut: what is to the right is east, or north.
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

/// Cuts a mesh upright, as PlanCutter does level. Any number of threads may cut at once.
class SectionCutter
{
public:
    SectionCutter(const Mesh& mesh, Looking looking);

    /// Outlines in metres along and up, where across() is so much.
    PlanCut at(double across_m) const;

private:
    Looking looking_;
    PlanCutter turned_;
};

} // namespace stone
