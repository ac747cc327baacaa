// SPDX-License-Identifier: MPL-2.0
#include "geometry/sphere_index.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace stone
{

namespace
{
constexpr std::uint32_t leafSize = 4;
}

SphereIndex::SphereIndex(std::span<const Sphere> spheres) : spheres_(spheres.begin(), spheres.end())
{
    for (std::uint32_t i = 0; i < spheres_.size(); ++i) {
        (std::isinf(spheres_[i].radius_m) ? endless_ : order_).push_back(i);
    }
    if (!order_.empty()) {
        nodes_.emplace_back();
        build(0, 0, static_cast<std::uint32_t>(order_.size()));
    }
}

void SphereIndex::build(std::uint32_t node, std::uint32_t first, std::uint32_t count)
{
    Vec3 low{INFINITY};
    Vec3 high{-INFINITY};
    for (std::uint32_t i = first; i < first + count; ++i) {
        const Sphere& sphere = spheres_[order_[i]];
        low = {std::min(low.x, sphere.centre.x - sphere.radius_m), std::min(low.y, sphere.centre.y - sphere.radius_m),
               std::min(low.z, sphere.centre.z - sphere.radius_m)};
        high = {std::max(high.x, sphere.centre.x + sphere.radius_m), std::max(high.y, sphere.centre.y + sphere.radius_m),
                std::max(high.z, sphere.centre.z + sphere.radius_m)};
    }
    if (count <= leafSize) {
        nodes_[node] = {low, high, first, count};
        return;
    }
    const Vec3 size = high - low;
    const int axis = size.x >= size.y ? (size.x >= size.z ? 0 : 2) : (size.y >= size.z ? 1 : 2);
    const std::uint32_t half = count / 2;
    std::nth_element(order_.begin() + first, order_.begin() + first + half, order_.begin() + first + count,
                     [&](std::uint32_t a, std::uint32_t b) { return spheres_[a].centre[axis] < spheres_[b].centre[axis]; });
    const auto left = static_cast<std::uint32_t>(nodes_.size());
    nodes_.resize(nodes_.size() + 2);
    nodes_[node] = {low, high, left, 0};
    build(left, first, half);
    build(left + 1, first + half, count - half);
}

void SphereIndex::containing(const Vec3& point, std::vector<std::uint32_t>& found) const
{
    const auto firstNew = static_cast<std::ptrdiff_t>(found.size());
    containingUnsorted(point, found);
    std::sort(found.begin() + firstNew, found.end());
}

void SphereIndex::containingUnsorted(const Vec3& point, std::vector<std::uint32_t>& found) const
{
    found.insert(found.end(), endless_.begin(), endless_.end());

    // The median split keeps the depth at log2 of the count, so 64 open nodes are plenty.
    std::array<std::uint32_t, 64> open{};
    std::size_t depth = 0;
    if (!nodes_.empty()) {
        open[depth++] = 0;
    }
    while (depth > 0) {
        const Node& node = nodes_[open[--depth]];
        if (point.x < node.low.x || point.y < node.low.y || point.z < node.low.z || point.x > node.high.x ||
            point.y > node.high.y || point.z > node.high.z) {
            continue;
        }
        if (node.count == 0) {
            open[depth++] = node.first;
            open[depth++] = node.first + 1;
            continue;
        }
        for (std::uint32_t i = node.first; i < node.first + node.count; ++i) {
            const Sphere& sphere = spheres_[order_[i]];
            const Vec3 offset = point - sphere.centre;
            if (glm::dot(offset, offset) <= sphere.radius_m * sphere.radius_m) {
                found.push_back(order_[i]);
            }
        }
    }
}

} // namespace stone
