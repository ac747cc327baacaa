#include "level/ground.h"

#include "level/find_way.h"

#include <embree3/rtcore.h>

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

/// The device and the scene of the ray library.
struct Ground::Rays {
    RTCDevice device;
    RTCScene scene;

    explicit Rays(const Mesh& mesh) : device(rtcNewDevice("threads=1")), scene(rtcNewScene(device))
    {
        rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
        if (!mesh.triangles.empty()) {
            RTCGeometry geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
            auto* points = static_cast<float*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3,
                                                                       3 * sizeof(float), mesh.points.size()));
            for (const Vec3& p : mesh.points) {
                *points++ = static_cast<float>(p.x);
                *points++ = static_cast<float>(p.y);
                *points++ = static_cast<float>(p.z);
            }
            auto* corners = static_cast<std::uint32_t*>(rtcSetNewGeometryBuffer(
                geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(std::uint32_t), mesh.triangles.size()));
            for (const Mesh::Triangle& triangle : mesh.triangles) {
                for (const std::uint32_t corner : triangle.corners) {
                    *corners++ = corner;
                }
            }
            rtcCommitGeometry(geometry);
            rtcAttachGeometry(scene, geometry);
            rtcReleaseGeometry(geometry);
        }
        rtcCommitScene(scene);
    }
    ~Rays()
    {
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
    }
    Rays(const Rays&) = delete;
    Rays& operator=(const Rays&) = delete;
};

Ground::Ground(std::shared_ptr<const Mesh> mesh) : mesh_(std::move(mesh)), rays_(std::make_unique<Rays>(*mesh_))
{
}
Ground::~Ground() = default;

std::optional<Ground::Hit> Ground::meet(const Vec3& from, const Vec3& direction, double within_m) const
{
    RTCRayHit ray{};
    ray.ray.org_x = static_cast<float>(from.x);
    ray.ray.org_y = static_cast<float>(from.y);
    ray.ray.org_z = static_cast<float>(from.z);
    ray.ray.dir_x = static_cast<float>(direction.x);
    ray.ray.dir_y = static_cast<float>(direction.y);
    ray.ray.dir_z = static_cast<float>(direction.z);
    ray.ray.tfar = static_cast<float>(within_m);
    ray.ray.mask = ~0U;
    ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcIntersect1(rays_->scene, &context, &ray);
    if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) {
        return {};
    }
    const auto& corners = mesh_->triangles[ray.hit.primID].corners;
    const Vec3 a = mesh_->points[corners[0]];
    const Vec3 normal = glm::cross(mesh_->points[corners[1]] - a, mesh_->points[corners[2]] - a);
    return Hit{static_cast<double>(ray.ray.tfar), ray.hit.primID, glm::dot(normal, direction) > 0.0};
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
    const Vec3 way = to - from;
    const double length = glm::length(way);
    return length < onward_m || !meet(from, way / length, length);
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

Ground::Way Ground::way(const Vec3& from, const Vec3& to) const
{
    if (auto found = foundWay(from, to)) {
        return *std::move(found);
    }
    Way way = findWay(*this, from, to);
    const std::lock_guard lock(waysMutex_);
    if (ways_.size() >= mostWays) {
        ways_.clear();
    }
    return ways_.emplace(endsOf(from, to), std::move(way)).first->second;
}

} // namespace stone
