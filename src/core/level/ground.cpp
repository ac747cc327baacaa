// SPDX-License-Identifier: MPL-2.0
#include "level/ground.h"

#include "level/edge_finder.h"
#include "level/find_way.h"

#include <cmath>
#include <limits>

namespace stone
{

namespace
{

constexpr double onward_m = 1e-4;
constexpr int mostFloors = 64;
/// More ways than any level has: what a long drag left behind is forgotten.
constexpr std::size_t mostWays = 4096;

std::array<double, 6> endsOf(const Vec3& from, const Vec3& to)
{
    return {from.x, from.y, from.z, to.x, to.y, to.z};
}

} // namespace

Ground::Ground(std::shared_ptr<const Mesh> mesh) : mesh_(std::move(mesh)), rays_(*mesh_)
{
    const auto [low, high] = mesh_->bounds();
    heights_m_ = {low.z, high.z};
}

void Ground::column(const Vec2& at, std::vector<Surface>& surfaces) const
{
    surfaces.clear();
    thread_local std::vector<RayScene::Hit> hits;
    constexpr double above_m = 1.0;
    const double top_m = heights_m_[1] + above_m;
    rays_.meetAll({at, top_m}, {0.0, 0.0, -1.0}, top_m - heights_m_[0] + above_m, hits);
    for (const RayScene::Hit& hit : hits) {
        // As the triangle has it: rays are met in single precision.
        const auto& corners = mesh_->triangles[hit.triangle].corners;
        const Vec3& a = mesh_->points[corners[0]];
        const Vec3 normal = glm::cross(mesh_->points[corners[1]] - a, mesh_->points[corners[2]] - a);
        const double height_m = std::abs(normal.z) > 1e-12
                                    ? a.z - (normal.x * (at.x - a.x) + normal.y * (at.y - a.y)) / normal.z
                                    : top_m - hit.distance_m;
        surfaces.push_back({height_m, hit.triangle});
    }
}

std::optional<Ground::Hit> Ground::meet(const Vec3& from, const Vec3& direction, double within_m) const
{
    const auto hit = rays_.meet(from, direction, within_m);
    if (!hit) {
        return {};
    }
    const auto& corners = mesh_->triangles[hit->triangle].corners;
    const Vec3 a = mesh_->points[corners[0]];
    const Vec3 normal = glm::cross(mesh_->points[corners[1]] - a, mesh_->points[corners[2]] - a);
    return Hit{hit->distance_m, hit->triangle, glm::dot(normal, direction) > 0.0};
}

std::optional<Ground::Floor> Ground::floorBelow(const Vec3& from, double within_m) const
{
    double down_m = 0.0;
    for (int i = 0; i < mostFloors && down_m <= within_m; ++i) {
        const auto hit = meet(from - Vec3{0.0, 0.0, down_m}, {0.0, 0.0, -1.0}, within_m - down_m);
        if (!hit) {
            return {};
        }
        down_m += hit->distance_m;
        if (!hit->back) {
            return Floor{from.z - down_m, mesh_->triangles[hit->triangle].material};
        }
        down_m += onward_m;
    }
    return {};
}

std::optional<double> Ground::distanceTo(const Vec3& from, const Vec3& direction, double within_m) const
{
    const auto hit = meet(from, direction, within_m);
    return hit ? std::optional(hit->distance_m) : std::nullopt;
}

bool Ground::clear(const Vec3& from, const Vec3& to) const
{
    return rays_.clear(from, to);
}

bool Ground::insideSolid(const Vec3& place) const
{
    // Tilted a little, so that the rays do not run along the edges of what stands upright.
    static const Vec3 ways[] = {glm::normalize(Vec3{1.0, 0.03, 0.02}), glm::normalize(Vec3{-1.0, 0.02, 0.03}),
                                glm::normalize(Vec3{0.02, 1.0, 0.03}), glm::normalize(Vec3{0.03, -1.0, 0.02}),
                                glm::normalize(Vec3{0.02, 0.03, 1.0}), glm::normalize(Vec3{0.03, 0.02, -1.0})};
    int backs = 0;
    for (const Vec3& way : ways) {
        const auto hit = meet(place, way, 1e5);
        backs += hit && hit->back ? 1 : 0;
    }
    return backs >= 4;
}

std::optional<Ground::Way> Ground::foundWay(const Vec3& from, const Vec3& to) const
{
    const std::lock_guard lock(waysMutex_);
    const auto found = ways_.find(endsOf(from, to));
    return found != ways_.end() ? std::optional(found->second) : std::nullopt;
}

std::shared_ptr<const Obstacles> Ground::obstacles(double slender_m) const
{
    if (auto found = foundObstacles(slender_m)) {
        return found;
    }
    auto made = std::make_shared<const Obstacles>(*mesh_, slender_m);
    const std::lock_guard lock(obstaclesMutex_);
    return obstacles_ = std::move(made);
}

std::shared_ptr<const Obstacles> Ground::foundObstacles(double slender_m) const
{
    const std::lock_guard lock(obstaclesMutex_);
    return obstacles_ && obstacles_->slender_m() == slender_m ? obstacles_ : nullptr;
}

std::shared_ptr<const FloorEdges> Ground::edges(const EdgeRules& rules, const Vec3& stands, const std::atomic<bool>* stop) const
{
    if (auto found = foundEdges(rules, stands)) {
        return found;
    }
    auto made = std::make_shared<const FloorEdges>(findFloorEdges(*this, rules, stands, stop));
    if (stop != nullptr && stop->load()) {
        return nullptr;
    }
    give({made, rules, stands});
    return made;
}

std::shared_ptr<const FloorEdges> Ground::foundEdges(const EdgeRules& rules, const Vec3& stands) const
{
    const std::lock_guard lock(edgesMutex_);
    return edges_.edges && edges_.rules == rules && edges_.stands == stands ? edges_.edges : nullptr;
}

FoundEdges Ground::foundEdges() const
{
    const std::lock_guard lock(edgesMutex_);
    return edges_;
}

void Ground::give(FoundEdges edges) const
{
    const std::lock_guard lock(edgesMutex_);
    edges_ = std::move(edges);
}

std::vector<std::pair<std::array<double, 6>, Ground::Way>> Ground::foundWays() const
{
    const std::lock_guard lock(waysMutex_);
    return {ways_.begin(), ways_.end()};
}

void Ground::give(const Vec3& from, const Vec3& to, Way way) const
{
    const std::lock_guard lock(waysMutex_);
    if (ways_.size() >= mostWays) {
        ways_.clear();
    }
    ways_.insert_or_assign(endsOf(from, to), std::move(way));
}

Ground::Way Ground::way(const Vec3& from, const Vec3& to) const
{
    if (auto found = foundWay(from, to)) {
        return *std::move(found);
    }
    Way way = findWay(*this, from, to);
    give(from, to, way);
    return way;
}

} // namespace stone
