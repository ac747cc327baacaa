// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/mesh.h"
#include "level/obstacles.h"
#include "level/ray_scene.h"
#include "project/edge_rules.h"

#include <array>
#include <atomic>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <utility>
#include <vector>

namespace stone
{

class FloorEdges;

/// The edges of a level's floor, with what they were found by.
struct FoundEdges {
    std::shared_ptr<const FloorEdges> edges; ///< null: nobody has asked yet
    EdgeRules rules;
    Vec3 stands{0.0};
};

/// A level's geometry as rays meet it, and the ways on it that were asked for. Any number of threads may ask. Rays take time
/// that grows with the logarithm of the number of triangles.
class Ground
{
public:
    explicit Ground(std::shared_ptr<const Mesh> mesh);

    const Mesh& mesh() const { return *mesh_; }

    struct Floor {
        double height_m = 0.0;
        std::uint32_t material = 0; ///< into mesh().materials
    };
    /// The highest floor at or below a place, no more than so far down. What faces down carries nobody.
    std::optional<Floor> floorBelow(const Vec3& from, double within_m) const;

    /// Everything that is met straight above and below a place in the plan, the highest first. Clears `surfaces`.
    struct Surface {
        double height_m;
        std::uint32_t triangle; ///< into mesh().triangles
    };
    void column(const Vec2& at, std::vector<Surface>& surfaces) const;

    /// How far the first surface is from a place in a direction (a unit vector), no more than so far; none when there is none.
    std::optional<double> distanceTo(const Vec3& from, const Vec3& direction, double within_m) const;

    /// Whether nothing lies between two places.
    bool clear(const Vec3& from, const Vec3& to) const;

    /// Whether a place is within a wall or anything else that is closed, or under the ground: most of the rays from it in
    /// six directions meet the back of a face first. One open face more or less does not mislead it.
    bool insideSolid(const Vec3& place) const;

    /// Corners of a way on foot, both ends included; empty when there is none.
    using Way = std::vector<Vec3>;
    /// Finds a way by findWay(), or hands out the one that was found before. The first time takes milliseconds to a few
    /// hundred: not for a thread that somebody waits for.
    Way way(const Vec3& from, const Vec3& to) const;
    /// A way that was found before; nothing when it has not been looked for.
    std::optional<Way> foundWay(const Vec3& from, const Vec3& to) const;

    /// The surfaces as sound meets them, without what is slender. The first time, and after another width, it takes
    /// milliseconds to a few hundred.
    std::shared_ptr<const Obstacles> obstacles(double slender_m) const;
    /// The same if it was asked for last; else null.
    std::shared_ptr<const Obstacles> foundObstacles(double slender_m) const;

    /// The edges of the floor by findFloorEdges(), or those that were found before. The first time, and by other rules, it
    /// takes milliseconds to seconds: not for a thread that somebody waits for. `stop`: null when it becomes true meanwhile.
    std::shared_ptr<const FloorEdges> edges(const EdgeRules& rules, const Vec3& stands,
                                            const std::atomic<bool>* stop = nullptr) const;
    /// The same if they were asked for last; else null.
    std::shared_ptr<const FloorEdges> foundEdges(const EdgeRules& rules, const Vec3& stands) const;

    /// All that was found so far, and what was found on the same geometry before; see finds.h.
    FoundEdges foundEdges() const;
    std::vector<std::pair<std::array<double, 6>, Way>> foundWays() const; ///< by both ends
    void give(FoundEdges edges) const;
    void give(const Vec3& from, const Vec3& to, Way way) const;

private:
    struct Hit {
        double distance_m;
        std::uint32_t triangle;
        bool back; ///< the ray came out of it
    };
    std::optional<Hit> meet(const Vec3& from, const Vec3& direction, double within_m) const;

    std::shared_ptr<const Mesh> mesh_;
    RayScene rays_;
    std::array<double, 2> heights_m_; ///< lowest and highest corner
    mutable std::mutex waysMutex_;
    mutable std::map<std::array<double, 6>, Way> ways_; ///< by both ends
    mutable std::mutex obstaclesMutex_;
    mutable std::shared_ptr<const Obstacles> obstacles_; ///< of the last width that was asked for
    mutable std::mutex edgesMutex_;
    mutable FoundEdges edges_; ///< of the last rules, and the last place to stand on
};

} // namespace stone
