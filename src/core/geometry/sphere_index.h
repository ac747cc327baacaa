// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

#include <cstdint>
#include <span>
#include <vector>

namespace stone
{

struct Sphere {
    Vec3 centre{0.0};
    double radius_m = 0.0; ///< may be infinite: then every query finds it
};

/// Finds the spheres that contain a point in time that grows with how many do, not with how many exist.
///
/// A bounding-volume tree over boxes, split at the median of the widest axis. Immutable after construction, so any
/// number of threads may query it.
class SphereIndex
{
public:
    SphereIndex() = default;
    explicit SphereIndex(std::span<const Sphere> spheres);

    /// Appends the indices of all spheres that contain the point (boundary included) to `found`, in ascending order.
    void containing(const Vec3& point, std::vector<std::uint32_t>& found) const;
    /// The same in any order, but always in the same one.
    void containingUnsorted(const Vec3& point, std::vector<std::uint32_t>& found) const;

private:
    struct Node {
        Vec3 low;
        Vec3 high;
        std::uint32_t first = 0; ///< leaf: first entry of order_; inner node: the left child, the right one follows it
        std::uint32_t count = 0; ///< leaf: number of entries; 0 for inner nodes
    };

    void build(std::uint32_t node, std::uint32_t first, std::uint32_t count);

    std::vector<Sphere> spheres_;
    std::vector<std::uint32_t> endless_;
    std::vector<std::uint32_t> order_;
    std::vector<Node> nodes_;
};

} // namespace stone
