// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/mesh.h"

#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// Triangles as rays meet them. Immutable; any number of threads may ask. A ray takes time that grows with the logarithm of
/// the number of triangles.
class RayScene
{
public:
    explicit RayScene(const Mesh& mesh);
    ~RayScene();
    RayScene(const RayScene&) = delete;
    RayScene& operator=(const RayScene&) = delete;

    struct Hit {
        double distance_m;
        std::uint32_t triangle;
    };
    /// The first triangle from a place in a direction (a unit vector), no further than so far.
    std::optional<Hit> meet(const Vec3& from, const Vec3& direction, double within_m) const;

    /// Everything that a ray meets, nearest first. Clears `hits`; of more than 256 any may be left out.
    void meetAll(const Vec3& from, const Vec3& direction, double within_m, std::vector<Hit>& hits) const;

    /// Whether nothing lies between two places. Quicker than to ask what does.
    bool clear(const Vec3& from, const Vec3& to) const;

    struct Stretch {
        Vec3 from;
        Vec3 to;
    };
    static constexpr std::size_t wide = 8;
    /// The same of up to eight at once, by a bit for each. Where they begin or lie near each other that takes about half the
    /// time.
    unsigned clear(std::span<const Stretch> stretches) const;

private:
    struct Library;
    std::unique_ptr<Library> library_;
};

} // namespace stone
