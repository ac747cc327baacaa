// SPDX-License-Identifier: MPL-2.0
#include "level/floor_plan.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <tuple>

namespace stone
{

namespace
{

constexpr double weld_m = 1e-3;
/// Steeper faces are walls and roofs, not floors.
constexpr double leastUpward = 0.7;

using Key = std::tuple<long, long, long>;

Key keyOf(const Vec3& p)
{
    return {std::lround(p.x / weld_m), std::lround(p.y / weld_m), std::lround(p.z / weld_m)};
}

} // namespace

FloorPlan floorPlan(const Mesh& mesh, double low_m, double high_m)
{
    FloorPlan plan;
    struct Use {
        Vec3 from;
        Vec3 to;
        int count = 0;
    };
    std::map<std::pair<Key, Key>, Use> uses;
    for (const Mesh::Triangle& triangle : mesh.triangles) {
        const Vec3& a = mesh.points[triangle.corners[0]];
        const Vec3& b = mesh.points[triangle.corners[1]];
        const Vec3& c = mesh.points[triangle.corners[2]];
        const double top = std::max({a.z, b.z, c.z});
        if (top < low_m || top > high_m) {
            continue;
        }
        const Vec3 normal = glm::cross(b - a, c - a);
        if (normal.z < leastUpward * glm::length(normal)) {
            continue;
        }
        plan.faces.push_back({{Vec2{a.x, a.y}, Vec2{b.x, b.y}, Vec2{c.x, c.y}}, top, triangle.material});
        for (const auto& [from, to] : {std::pair{a, b}, std::pair{b, c}, std::pair{c, a}}) {
            const Key k = keyOf(from);
            const Key l = keyOf(to);
            Use& use = uses[k < l ? std::pair{k, l} : std::pair{l, k}];
            use.from = from;
            use.to = to;
            ++use.count;
        }
    }
    // An edge that two faces share lies inside a surface.
    for (const auto& [key, use] : uses) {
        if (use.count == 1) {
            plan.edges.push_back({Vec2{use.from.x, use.from.y}, Vec2{use.to.x, use.to.y}});
        }
    }
    std::stable_sort(plan.faces.begin(), plan.faces.end(),
                     [](const FloorPlan::Face& x, const FloorPlan::Face& y) { return x.height_m < y.height_m; });
    return plan;
}

} // namespace stone
