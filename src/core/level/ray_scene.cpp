// SPDX-License-Identifier: MPL-2.0
#include "level/ray_scene.h"

#include <embree3/rtcore.h>

#include <algorithm>
#include <array>

namespace stone
{

namespace
{

constexpr std::size_t mostHits = 256;

template <class Ray> void aim(Ray& ray, const Vec3& from, const Vec3& direction, double within_m)
{
    ray.org_x = static_cast<float>(from.x);
    ray.org_y = static_cast<float>(from.y);
    ray.org_z = static_cast<float>(from.z);
    ray.dir_x = static_cast<float>(direction.x);
    ray.dir_y = static_cast<float>(direction.y);
    ray.dir_z = static_cast<float>(direction.z);
    ray.tfar = static_cast<float>(within_m);
    ray.mask = ~0U;
}

} // namespace

/// The device and the scene of the ray library.
struct RayScene::Library {
    RTCDevice device;
    RTCScene scene;

    explicit Library(const Mesh& mesh) : device(rtcNewDevice("threads=1")), scene(rtcNewScene(device))
    {
        rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST | RTC_SCENE_FLAG_CONTEXT_FILTER_FUNCTION);
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
    ~Library()
    {
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
    }
    Library(const Library&) = delete;
    Library& operator=(const Library&) = delete;
};

RayScene::RayScene(const Mesh& mesh) : library_(std::make_unique<Library>(mesh))
{
}
RayScene::~RayScene() = default;

std::optional<RayScene::Hit> RayScene::meet(const Vec3& from, const Vec3& direction, double within_m) const
{
    RTCRayHit ray{};
    aim(ray.ray, from, direction, within_m);
    ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcIntersect1(library_->scene, &context, &ray);
    if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) {
        return {};
    }
    return Hit{static_cast<double>(ray.ray.tfar), ray.hit.primID};
}

void RayScene::meetAll(const Vec3& from, const Vec3& direction, double within_m, std::vector<Hit>& hits) const
{
    // The library asks about each triangle that it finds; told that it does not count, it goes on behind it.
    struct Collecting {
        RTCIntersectContext context;
        std::vector<Hit>* hits;
    } collecting{};
    hits.clear();
    collecting.hits = &hits;
    rtcInitIntersectContext(&collecting.context);
    collecting.context.filter = [](const RTCFilterFunctionNArguments* asked) {
        auto& found = *reinterpret_cast<Collecting*>(asked->context)->hits;
        if (found.size() < mostHits) {
            found.push_back(
                {static_cast<double>(RTCRayN_tfar(asked->ray, asked->N, 0)), RTCHitN_primID(asked->hit, asked->N, 0)});
        }
        asked->valid[0] = 0;
    };
    RTCRayHit ray{};
    aim(ray.ray, from, direction, within_m);
    ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(library_->scene, &collecting.context, &ray);
    // A triangle can be met twice by a tree that splits them.
    std::sort(hits.begin(), hits.end(), [](const Hit& a, const Hit& b) {
        return a.distance_m != b.distance_m ? a.distance_m < b.distance_m : a.triangle < b.triangle;
    });
    const auto same = [](const Hit& a, const Hit& b) { return a.triangle == b.triangle; };
    hits.erase(std::unique(hits.begin(), hits.end(), same), hits.end());
}

bool RayScene::clear(const Vec3& from, const Vec3& to) const
{
    RTCRay ray{};
    aim(ray, from, to - from, 1.0);
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcOccluded1(library_->scene, &context, &ray);
    // The library marks a ray that was stopped by a negative end.
    return ray.tfar >= 0.0F;
}

unsigned RayScene::clear(std::span<const Stretch> stretches) const
{
    RTCRay8 rays{};
    alignas(32) std::array<int, wide> asked{}; // -1 for one that is asked
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        const auto& [from, to] = stretches[i];
        asked[i] = -1;
        rays.org_x[i] = static_cast<float>(from.x);
        rays.org_y[i] = static_cast<float>(from.y);
        rays.org_z[i] = static_cast<float>(from.z);
        rays.dir_x[i] = static_cast<float>(to.x - from.x);
        rays.dir_y[i] = static_cast<float>(to.y - from.y);
        rays.dir_z[i] = static_cast<float>(to.z - from.z);
        rays.tfar[i] = 1.0F;
        rays.mask[i] = ~0U;
    }
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    context.flags = RTC_INTERSECT_CONTEXT_FLAG_COHERENT;
    rtcOccluded8(asked.data(), library_->scene, &context, &rays);
    unsigned clear = 0;
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        clear |= rays.tfar[i] >= 0.0F ? 1U << i : 0U;
    }
    return clear;
}

} // namespace stone
