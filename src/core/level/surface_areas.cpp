// SPDX-License-Identifier: MPL-2.0
#include "level/surface_areas.h"

namespace stone
{

std::vector<double> surfaceAreas_m2(const Mesh& mesh)
{
    std::vector<double> areas(mesh.materials.size(), 0.0);
    for (const Mesh::Triangle& triangle : mesh.triangles) {
        const Vec3& a = mesh.points[triangle.corners[0]];
        const Vec3 across = glm::cross(mesh.points[triangle.corners[1]] - a, mesh.points[triangle.corners[2]] - a);
        areas[triangle.material] += glm::length(across) / 2.0;
    }
    return areas;
}

} // namespace stone
