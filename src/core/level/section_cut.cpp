// SPDX-License-Identifier: MPL-2.0
#include "level/section_cut.h"

namespace stone
{

namespace
{

/// The mesh turned so that an upright cut becomes a level one. Turned, not mirrored: faces keep their outsides.
Mesh turned(const Mesh& mesh, Looking looking)
{
    Mesh upright;
    upright.triangles = mesh.triangles;
    upright.points.reserve(mesh.points.size());
    for (const Vec3& p : mesh.points) {
        upright.points.push_back(looking == Looking::north ? Vec3{p.x, p.z, -p.y} : Vec3{p.y, p.z, p.x});
    }
    return upright;
}

} // namespace

SectionCutter::SectionCutter(const Mesh& mesh, Looking looking) : looking_(looking), turned_(turned(mesh, looking))
{
}

PlanCut SectionCutter::at(double across_m) const
{
    return turned_.at(looking_ == Looking::north ? -across_m : across_m);
}

} // namespace stone
