// SPDX-License-Identifier: MPL-2.0
#include "analysis/walls_findings.h"

#include "analysis/words.h"
#include "level/surface_areas.h"
#include "project/edit.h"
#include "world/reach.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

/// What is moved out of a wall stands so far off it, beyond what does not count near an emitter.
constexpr double clearance_m = 0.2;
constexpr double furthestOut_m = 20.0;
/// Parts of the level that are smaller than this from corner to corner may be the housing of what is in them.
constexpr double largestHousing_m = 4.0;
constexpr std::size_t mostNamed = 6;

const std::array<Vec3, 14>& ways()
{
    static const std::array<Vec3, 14> all = [] {
        std::array<Vec3, 14> made;
        std::size_t n = 0;
        for (const double s : {-1.0, 1.0}) {
            made[n++] = {s, 0.0, 0.0};
            made[n++] = {0.0, s, 0.0};
            made[n++] = {0.0, 0.0, s};
            for (const double x : {-1.0, 1.0}) {
                for (const double y : {-1.0, 1.0}) {
                    made[n++] = glm::normalize(Vec3{x, y, s});
                }
            }
        }
        return made;
    }();
    return all;
}

bool standsInWorld(const Emitter& emitter)
{
    return emitter.kind == EmitterKind::point && emitter.placement.inWorld > 0.0 && emitter.riding.on == Riding::On::nothing;
}

/// The small part of the level in which a place lies.
const Mesh::Node* housingAt(const Mesh& mesh, const Vec3& place)
{
    for (const Mesh::Node& node : mesh.nodes) {
        Vec3 low{1e30};
        Vec3 high{-1e30};
        for (std::size_t i = node.firstTriangle; i < node.firstTriangle + node.triangleCount; ++i) {
            for (const std::uint32_t corner : mesh.triangles[i].corners) {
                low = glm::min(low, mesh.points[corner]);
                high = glm::max(high, mesh.points[corner]);
            }
        }
        const bool within = glm::all(glm::lessThanEqual(low, place)) && glm::all(glm::lessThanEqual(place, high));
        if (within && glm::length(high - low) <= largestHousing_m) {
            return &node;
        }
    }
    return nullptr;
}

Remedy changed(const std::string& label, const Level& level, const Emitter& emitter, std::function<void(Emitter&)> change)
{
    return {label, [level = level.id, emitter = emitter.id, change = std::move(change)](Project project) {
                return withEmitter(std::move(project), level, emitter, change);
            }};
}

std::optional<std::uint32_t> nodeOf(const Mesh& mesh, const std::string& name)
{
    const Mesh::Node* node = name.empty() ? nullptr : mesh.node(name);
    return node != nullptr ? std::optional(static_cast<std::uint32_t>(node - mesh.nodes.data())) : std::nullopt;
}

void lookAt(const Project& project, const Level& level, const Emitter& emitter, const Obstacles& obstacles,
            std::vector<Finding>& found)
{
    const Screening& screening = emitter.screening;
    Finding finding{.code = "", .where = "emitter " + quoted(emitter.name), .level = level.id, .emitter = emitter.id};
    if (shutIn(obstacles, emitter.at, screening.clear_m, nodeOf(obstacles.mesh(), screening.housing))) {
        finding.code = "emitter-in-wall";
        finding.severity = Severity::warning;
        if (const Mesh::Node* housing = housingAt(obstacles.mesh(), emitter.at)) {
            finding.code = "own-housing";
            finding.what = quoted(emitter.name) + " is shut in by " + quoted(housing->name) + ", which stops its sound";
            finding.fix = "let that be its housing, or move it out";
            finding.remedies.push_back(changed("It is its housing", level, emitter,
                                               [name = housing->name](Emitter& e) { e.screening.housing = name; }));
        } else {
            finding.what = quoted(emitter.name) + " is within a wall, or under the ground";
            finding.fix = "move it out, or say which part of the level is its housing";
        }
        if (const auto out = movedOut(obstacles, emitter.at, screening.clear_m)) {
            finding.remedies.push_back(changed("Move it out", level, emitter, [to = *out](Emitter& e) { e.at = to; }));
        }
        found.push_back(finding);
    }
    finding.remedies.clear();
    const double heard_m = audibleWithin_m(project, emitter);
    if (std::isfinite(heard_m) && heard_m > project.occlusion.reach_m) {
        finding.code = "walls-end-early";
        finding.severity = Severity::note;
        finding.what = quoted(emitter.name) + " is heard up to " + number("%.0f m", heard_m) + ", but walls count up to " +
                       number("%.0f m", project.occlusion.reach_m) + " only: from further away it comes through them";
        finding.fix = "let walls count as far as it is heard (Level > Walls and materials)";
        finding.remedies = {{"Let walls count that far", [heard_m](Project p) {
                                 p.occlusion.reach_m = std::ceil(heard_m);
                                 return p;
                             }}};
        found.push_back(finding);
    }
}

void findUnknownSurfaces(const Project& project, const Level& level, const Mesh& mesh, std::vector<Finding>& found)
{
    const std::vector<double> areas = surfaceAreas_m2(mesh);
    std::string names;
    std::size_t count = 0;
    for (std::size_t i = 0; i < areas.size(); ++i) {
        if (areas[i] > 0.0 && materialOf(project.materials, project.surfaces, mesh.materials[i]).by == SurfaceBy::nothing) {
            if (++count <= mostNamed) {
                names += (names.empty() ? "" : ", ") +
                         (mesh.materials[i].empty() ? std::string("surfaces without a name") : quoted(mesh.materials[i]));
            }
        }
    }
    if (count > 0) {
        found.push_back({.code = "surface-unknown",
                         .severity = Severity::note,
                         .what = "nothing is known of " + names + (count > mostNamed ? " and others" : "") +
                                 ": they stop sound as a light wall does",
                         .where = "level " + quoted(level.name),
                         .fix = "say what they are made of (Level > Walls and materials)",
                         .level = level.id});
    }
}

} // namespace

bool shutIn(const Obstacles& obstacles, const Vec3& place, double clear_m, const std::optional<std::uint32_t>& housing)
{
    constexpr std::ptrdiff_t nearlyAll = 11;
    std::vector<Obstacles::Crossing> crossings;
    return std::count_if(ways().begin(), ways().end(), [&](const Vec3& way) {
               obstacles.through({.from = place, .to = place + way * furthestOut_m, .clearFrom_m = clear_m, .without = housing},
                                 crossings);
               // What a ray is in from its beginning is entered there.
               return !crossings.empty() && crossings.front().enters_m <= clear_m;
           }) >= nearlyAll;
}

std::optional<Vec3> movedOut(const Obstacles& obstacles, const Vec3& place, double clear_m)
{
    std::optional<Vec3> nearest;
    double least_m = furthestOut_m;
    std::vector<Obstacles::Crossing> crossings;
    for (const Vec3& way : ways()) {
        obstacles.through({.from = place, .to = place + way * furthestOut_m}, crossings);
        if (crossings.empty() || crossings.front().enters_m > 0.0 || crossings.front().leaves_m >= least_m) {
            continue;
        }
        const double leaves_m = crossings.front().leaves_m;
        const Vec3 out = place + way * (leaves_m + clear_m + clearance_m);
        if (!shutIn(obstacles, out, clear_m, {})) {
            least_m = leaves_m;
            nearest = Vec3{std::round(out.x * 100.0), std::round(out.y * 100.0), std::round(out.z * 100.0)} / 100.0;
        }
    }
    return nearest;
}

void findInWalls(const Project& project, const Level& level, const std::shared_ptr<const Ground>& ground, bool search,
                 std::vector<Finding>& found)
{
    const Occlusion& occlusion = project.occlusion;
    if (!occlusion.on || ground == nullptr || ground->mesh().triangles.empty()) {
        return;
    }
    findUnknownSurfaces(project, level, ground->mesh(), found);
    const auto obstacles = search ? ground->obstacles(occlusion.slender_m) : ground->foundObstacles(occlusion.slender_m);
    for (const auto& emitter : level.emitters) {
        if (obstacles != nullptr && emitter->screening.on && standsInWorld(*emitter)) {
            lookAt(project, level, *emitter, *obstacles, found);
        }
    }
}

} // namespace stone
