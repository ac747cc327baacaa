// SPDX-License-Identifier: MPL-2.0
#include "level/obstacles.h"

#include "level/sets.h"
#include "level/welded.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <unordered_map>

namespace stone
{

namespace
{

/// Two hits of one solid from the same side that are so close together are one.
constexpr double sameFace_m = 1e-4;
/// Solids that lie into each other, at most.
constexpr std::size_t mostOpen = 32;
/// Boxes of one material that are no further apart than this are one wall.
constexpr double joint_m = 0.02;
/// An entry into a sheet and an exit from another one further away than this are two walls.
constexpr double thickest_m = 1.0;

struct Solids {
    std::vector<std::uint32_t> of; ///< by triangle
    std::vector<bool> closed;
    std::vector<double> second_m; ///< the middle one of the three sizes along the axes
};

Solids solidsOf(const Mesh& mesh)
{
    const std::vector<std::uint32_t> welded = weldedPoints(mesh.points);
    Sets sets(mesh.points.size());
    for (const Mesh::Triangle& triangle : mesh.triangles) {
        sets.join(welded[triangle.corners[0]], welded[triangle.corners[1]]);
        sets.join(welded[triangle.corners[1]], welded[triangle.corners[2]]);
    }
    Solids solids;
    std::unordered_map<std::uint32_t, std::uint32_t> numbers;
    std::vector<std::array<Vec3, 2>> boxes;
    std::unordered_map<std::uint64_t, std::pair<int, std::uint32_t>> sides; ///< by both ends: how often each way, and whose
    for (const Mesh::Triangle& triangle : mesh.triangles) {
        const std::uint32_t root = sets.of(welded[triangle.corners[0]]);
        const auto [known, fresh] = numbers.emplace(root, static_cast<std::uint32_t>(numbers.size()));
        if (fresh) {
            boxes.push_back({Vec3{1e30}, Vec3{-1e30}});
        }
        solids.of.push_back(known->second);
        for (std::size_t i = 0; i < 3; ++i) {
            const Vec3& p = mesh.points[triangle.corners[i]];
            boxes[known->second] = {glm::min(boxes[known->second][0], p), glm::max(boxes[known->second][1], p)};
            const std::uint64_t a = welded[triangle.corners[i]];
            const std::uint64_t b = welded[triangle.corners[(i + 1) % 3]];
            auto& side = sides[std::min(a, b) << 32U | std::max(a, b)];
            side.first += a < b ? 1 : -1;
            side.second = known->second;
        }
    }
    solids.closed.assign(numbers.size(), true);
    for (const auto& [ends, side] : sides) {
        if (side.first != 0) {
            solids.closed[side.second] = false;
        }
    }
    for (const auto& [low, high] : boxes) {
        std::array<double, 3> sizes{high.x - low.x, high.y - low.y, high.z - low.z};
        std::sort(sizes.begin(), sizes.end());
        solids.second_m.push_back(sizes[1]);
    }
    return solids;
}

/// A mesh without its slender solids; fills in the numbers of those that stay.
Mesh withoutSlender(const Mesh& mesh, double slender_m, std::vector<std::uint32_t>& solidOf, std::vector<bool>& closed)
{
    const Solids solids = solidsOf(mesh);
    closed = solids.closed;
    Mesh kept{.points = mesh.points, .triangles = {}, .materials = mesh.materials, .nodes = mesh.nodes};
    std::vector<std::size_t> before(mesh.triangles.size() + 1, 0); ///< how many are kept before this one
    for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
        before[i] = kept.triangles.size();
        if (solids.second_m[solids.of[i]] >= slender_m) {
            kept.triangles.push_back(mesh.triangles[i]);
            solidOf.push_back(solids.of[i]);
        }
    }
    before.back() = kept.triangles.size();
    for (Mesh::Node& node : kept.nodes) {
        const std::size_t end = before[node.firstTriangle + node.triangleCount];
        node.firstTriangle = before[node.firstTriangle];
        node.triangleCount = end - node.firstTriangle;
    }
    return kept;
}

/// Walls are often put together from pieces: those of one material that touch or lie into each other count once.
void joinTouching(std::vector<Obstacles::Crossing>& crossings)
{
    std::sort(crossings.begin(), crossings.end(), [](const auto& a, const auto& b) { return a.enters_m < b.enters_m; });
    std::size_t kept = 0;
    for (std::size_t i = 0; i < crossings.size(); ++i) {
        bool joined = false;
        for (std::size_t k = kept; k-- > 0 && !joined;) {
            Obstacles::Crossing& before = crossings[k];
            joined = before.material == crossings[i].material && crossings[i].enters_m - before.leaves_m <= joint_m;
            if (joined) {
                before.leaves_m = std::max(before.leaves_m, crossings[i].leaves_m);
            }
        }
        if (!joined) {
            crossings[kept++] = crossings[i];
        }
    }
    crossings.resize(kept);
}

} // namespace

Obstacles::Obstacles(const Mesh& mesh, double slender_m)
    : slender_m_(slender_m), mesh_(withoutSlender(mesh, slender_m, solidOf_, closed_)), rays_(mesh_)
{
    normals_.reserve(mesh_.triangles.size());
    for (const Mesh::Triangle& triangle : mesh_.triangles) {
        const Vec3& a = mesh_.points[triangle.corners[0]];
        normals_.push_back(glm::cross(mesh_.points[triangle.corners[1]] - a, mesh_.points[triangle.corners[2]] - a));
    }
}

void Obstacles::through(const Ray& ray, std::vector<Crossing>& crossings) const
{
    thread_local std::vector<RayScene::Hit> hits;
    crossings.clear();
    const Vec3 way = ray.to - ray.from;
    const double length = glm::length(way);
    const double end = length - ray.clearTo_m;
    if (end <= ray.clearFrom_m) {
        return;
    }
    const Vec3 direction = way / length;
    const Mesh::Node* without = ray.without ? &mesh_.nodes[*ray.without] : nullptr;
    rays_.meetAll(ray.from + direction * ray.clearFrom_m, direction, end - ray.clearFrom_m, hits);
    // Entries whose exits are still to come. Rays meet few walls at once: a short list is looked through.
    struct Open {
        std::size_t crossing;
        std::uint32_t solid;
    };
    std::array<Open, mostOpen> open{};
    std::size_t opened = 0;
    std::uint32_t lastSolid = UINT32_MAX;
    bool lastEntry = false;
    double last_m = 0.0;
    for (const RayScene::Hit& hit : hits) {
        const double at = ray.clearFrom_m + hit.distance_m;
        if (without != nullptr && hit.triangle - without->firstTriangle < without->triangleCount) {
            continue;
        }
        const std::uint32_t solid = solidOf_[hit.triangle];
        const std::uint32_t material = mesh_.triangles[hit.triangle].material;
        const bool entry = glm::dot(normals_[hit.triangle], direction) <= 0.0;
        // The border of two triangles of one face is met twice.
        if (solid == lastSolid && entry == lastEntry && at - last_m < sameFace_m) {
            continue;
        }
        lastSolid = solid;
        lastEntry = entry;
        last_m = at;
        if (entry) {
            if (opened < mostOpen) {
                open[opened++] = {crossings.size(), solid};
            }
            crossings.push_back({at, at, material});
            continue;
        }
        std::size_t pair = opened;
        for (std::size_t i = opened; i-- > 0 && pair == opened;) {
            const Crossing& entered = crossings[open[i].crossing];
            const bool sheets = !closed_[solid] && !closed_[open[i].solid] && entered.material == material &&
                                at - entered.enters_m <= thickest_m;
            pair = open[i].solid == solid || sheets ? i : opened;
        }
        if (pair == opened) {
            // The ray began within it, or it has this face alone.
            crossings.push_back({closed_[solid] ? ray.clearFrom_m : at, at, material});
            continue;
        }
        crossings[open[pair].crossing].leaves_m = at;
        std::copy(open.begin() + static_cast<std::ptrdiff_t>(pair) + 1, open.begin() + static_cast<std::ptrdiff_t>(opened),
                  open.begin() + static_cast<std::ptrdiff_t>(pair));
        --opened;
    }
    joinTouching(crossings);
}

std::optional<Obstacles::Face> Obstacles::faceAhead(const Vec3& from, const Vec3& direction, double within_m) const
{
    const auto hit = rays_.meet(from, direction, within_m);
    if (!hit) {
        return {};
    }
    const Vec3 normal = glm::normalize(normals_[hit->triangle]);
    return Face{hit->distance_m, glm::dot(normal, direction) > 0.0 ? -normal : normal, mesh_.triangles[hit->triangle].material};
}

bool Obstacles::clear(const Ray& ray) const
{
    if (ray.without) {
        thread_local std::vector<Crossing> crossings;
        through(ray, crossings);
        return crossings.empty();
    }
    const double length = glm::length(ray.to - ray.from);
    if (length <= ray.clearFrom_m + ray.clearTo_m) {
        return true;
    }
    const Vec3 direction = (ray.to - ray.from) / length;
    return rays_.clear(ray.from + direction * ray.clearFrom_m, ray.to - direction * ray.clearTo_m);
}

std::shared_ptr<const CornerGraph> Obstacles::foundCorners(double height_m) const
{
    const std::lock_guard lock(cornersMutex_);
    const auto found = corners_.find(height_m);
    return found != corners_.end() ? found->second : nullptr;
}

std::shared_ptr<const CornerGraph> Obstacles::corners(double height_m) const
{
    if (auto found = foundCorners(height_m)) {
        return found;
    }
    auto graph = std::make_shared<const CornerGraph>(*this, height_m);
    const std::lock_guard lock(cornersMutex_);
    return corners_.emplace(height_m, std::move(graph)).first->second;
}

} // namespace stone
