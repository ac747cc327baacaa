// SPDX-License-Identifier: MPL-2.0
#include "world/placed_solid.h"

#include "level/ground.h"
#include "world/carriage.h"

namespace stone
{

namespace
{

Shape withTriangles(const Shape& shape, const Ground* ground)
{
    const auto* hull = std::get_if<Hull>(&shape);
    if (hull == nullptr || hull->node.empty()) {
        return shape;
    }
    Hull filled{hull->node, {}, {}};
    if (const Mesh::Node* node = ground != nullptr ? ground->mesh().node(hull->node) : nullptr) {
        const Mesh& mesh = ground->mesh();
        for (std::size_t i = 0; i < node->triangleCount; ++i) {
            const auto first = static_cast<int>(filled.points.size());
            for (const std::uint32_t corner : mesh.triangles[node->firstTriangle + i].corners) {
                filled.points.push_back(mesh.points[corner]);
            }
            filled.triangles.push_back({first, first + 1, first + 2});
        }
    }
    return filled;
}

} // namespace

Solid placedSolid(const Shape& shape, const Vec3& at, double heading_deg, const Ground* ground)
{
    return {withTriangles(shape, ground), frameAt(at, heading_deg)};
}

} // namespace stone
