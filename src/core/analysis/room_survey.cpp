// SPDX-License-Identifier: MPL-2.0
#include "analysis/room_survey.h"

#include "world/carriage.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

namespace stone
{

namespace
{

constexpr int lines = 6000;
/// So many places of a line are tried for one that lies in the room.
constexpr int stepsAcross = 40;
constexpr double longestRay_m = 300.0;
/// A ray that leaves the room by so much before it meets anything has left through an opening.
constexpr double beyond_m = 1.0;

/// Points of a sequence that fills the unit cube evenly (R. Richtmyer's, by square roots of primes).
Vec3 evenly(int i)
{
    const auto part = [i](double root) { return root * i - std::floor(root * i); };
    return {part(std::numbers::sqrt2), part(std::numbers::sqrt3), part(2.23606797749979)};
}

} // namespace

std::optional<RoomSurvey> surveyRoom(const Project& project, const Room& room, const Ground& ground)
{
    const Solid solid(room.shape, frameAt(room.at, room.heading_deg));
    const auto obstacles = ground.obstacles(project.occlusion.slender_m);
    RoomSurvey survey;
    survey.volume_m3 = solid.volume_m3();
    double chords = 0.0; ///< length of all chords
    double weights = 0.0;
    double lost = 0.0;
    std::map<std::uint32_t, double> met;
    std::vector<Obstacles::Crossing> crossings;
    struct End {
        double length_m;
        std::optional<std::uint32_t> surface; ///< none: it left through an opening
    };
    const auto look = [&](const Vec3& place, const Vec3& way) {
        obstacles->through({.from = place, .to = place + way * longestRay_m}, crossings);
        const double at_m = crossings.empty() ? longestRay_m : crossings.front().enters_m;
        const double out_m = solid.signedDistance(place + way * at_m);
        return out_m > beyond_m ? End{std::max(at_m - out_m, 0.1), {}} : End{std::max(at_m, 0.01), crossings.front().material};
    };
    const Sphere round = solid.bounds();
    const double step_m = 2.0 * round.radius_m / stepsAcross;
    for (int i = 0; i < lines; ++i) {
        // All lines alike: directions by a spiral over half the sphere, and across them evenly over a square.
        const double z = (i + 0.5) / lines;
        const double across = std::sqrt(1.0 - z * z);
        const double turn = 2.0 * std::numbers::pi * (std::numbers::phi - 1.0) * i;
        const Vec3 way{across * std::cos(turn), across * std::sin(turn), z};
        const Vec3 aside = glm::normalize(glm::cross(way, std::abs(z) < 0.9 ? Vec3{0.0, 0.0, 1.0} : Vec3{1.0, 0.0, 0.0}));
        const Vec3 up = glm::cross(way, aside);
        const Vec3 p = evenly(i + 1);
        const Vec3 middle =
            round.centre + (aside * (2.0 * p.x - 1.0) + up * (2.0 * p.y - 1.0)) * round.radius_m - way * round.radius_m;
        for (int k = 0; k < stepsAcross; ++k) {
            const Vec3 place = middle + way * (step_m * (k + p.z));
            if (!solid.contains(place) || ground.insideSolid(place)) {
                continue;
            }
            const End ends[] = {look(place, way), look(place, -way)};
            const double length_m = ends[0].length_m + ends[1].length_m;
            // A chord shorter than a step is found as seldom as it is short.
            const double weight = std::max(step_m / length_m, 1.0);
            chords += weight * length_m;
            weights += weight;
            for (const End& end : ends) {
                (end.surface ? met[*end.surface] : lost) += weight / 2.0;
            }
            break;
        }
    }
    if (weights <= lost || survey.volume_m3 <= 0.0) {
        return {};
    }
    survey.surface_m2 = 4.0 * survey.volume_m3 * weights / chords;
    survey.open_share = lost / weights;
    std::vector<RoomSurface> surfaces;
    Bands all;
    all.fill(1.0);
    surfaces.push_back({survey.surface_m2 * survey.open_share, all});
    for (const auto& [surface, share] : met) {
        const Material& material =
            *materialOf(project.materials, project.surfaces, obstacles->mesh().materials[surface]).material;
        const double area_m2 = survey.surface_m2 * share / weights;
        surfaces.push_back({area_m2, material.absorption});
        survey.parts.push_back({material.name, area_m2});
    }
    std::sort(survey.parts.begin(), survey.parts.end(), [](const auto& a, const auto& b) { return a.area_m2 > b.area_m2; });
    const Bands air = airLoss_db_m(project.air);
    survey.sabine_s = sabine_s(survey.volume_m3, surfaces, air);
    survey.eyring_s = eyring_s(survey.volume_m3, surfaces, air);
    return survey;
}

} // namespace stone
