// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/corner_graph.h"
#include "level/mesh.h"
#include "level/ray_scene.h"

#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// A level's surfaces as sound meets them: what hangs together is one solid, a wall of two faces is one wall, and bars,
/// posts and rails are left out. Any number of threads may ask.
class Obstacles
{
public:
    /// What is narrower than `slender_m` in two directions (along the axes) is left out.
    Obstacles(const Mesh& mesh, double slender_m);

    double slender_m() const { return slender_m_; }
    /// Without what is left out.
    const Mesh& mesh() const { return mesh_; }

    /// One wall that a ray goes through.
    struct Crossing {
        double enters_m;        ///< from where the ray began
        double leaves_m;        ///< the same for a single sheet, and for a face that is the only one of its wall
        std::uint32_t material; ///< into mesh().materials: of the face by which it enters
    };

    /// Ends and exceptions of a ray.
    struct Ray {
        Vec3 from;
        Vec3 to;
        double clearFrom_m = 0.0;               ///< nearer to its begin nothing counts
        double clearTo_m = 0.0;                 ///< nor nearer to its end
        std::optional<std::uint32_t> without{}; ///< a node of the mesh that does not count
    };
    /// The walls on the way, in order of where they are entered; each once. Clears `crossings`. An entry is paired with the
    /// next exit of the same solid, or, for sheets, of the same material; what has no other face counts by itself. Pieces of
    /// one material that touch are one wall.
    void through(const Ray& ray, std::vector<Crossing>& crossings) const;

    /// Whether nothing lies between two places.
    bool clear(const Vec3& from, const Vec3& to) const { return rays_.clear(from, to); }
    /// The same of up to RayScene::wide stretches at once, by a bit for each.
    unsigned clear(std::span<const RayScene::Stretch> stretches) const { return rays_.clear(stretches); }
    /// A face as a ray meets it first.
    struct Face {
        double distance_m;
        Vec3 normal;            ///< unit vector, towards where the ray came from
        std::uint32_t material; ///< into mesh().materials
    };
    /// The first face from a place in a direction (a unit vector), no further than so far.
    std::optional<Face> faceAhead(const Vec3& from, const Vec3& direction, double within_m) const;

    /// The same as clear() with what does not count.
    bool clear(const Ray& ray) const;

    /// The corners of the walls at a height and which of them see each other. The first time takes milliseconds to seconds:
    /// not for a thread that somebody waits for.
    std::shared_ptr<const CornerGraph> corners(double height_m) const;
    /// The same if it was asked for before; else null.
    std::shared_ptr<const CornerGraph> foundCorners(double height_m) const;

private:
    double slender_m_;
    std::vector<std::uint32_t> solidOf_; ///< by triangle; this and the next are filled in while the mesh is thinned out
    std::vector<bool> closed_;           ///< by solid: it has no open border
    Mesh mesh_;
    std::vector<Vec3> normals_; ///< by triangle, not of unit length
    RayScene rays_;
    mutable std::mutex cornersMutex_;
    mutable std::map<double, std::shared_ptr<const CornerGraph>> corners_; ///< by height
};

} // namespace stone
