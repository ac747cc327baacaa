// SPDX-License-Identifier: MPL-2.0
#include "analysis/room_proposals.h"

#include "analysis/room_survey.h"
#include "geometry/polygon.h"
#include "level/free_space.h"
#include "world/room_map.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double smallest_m2 = 3.0;
constexpr double highest_m = 40.0;
constexpr double lowest_m = 1.5;
/// So many places of a region are asked for floor and ceiling, and so many of them must have both.
constexpr std::size_t places = 60;
constexpr double roofed = 0.6;
constexpr double widest_m = 10.0;
constexpr double narrowest_m = 0.3;
/// An opening nearer than this to another is the same.
constexpr double same_m = 0.8;
constexpr double centimetres = 100.0;

double rounded(double x)
{
    return std::round(x * centimetres) / centimetres;
}

double middleOf(std::vector<double> values)
{
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

/// Heights between which a region is a room; nothing for what lies open.
struct Heights {
    double floor_m;
    double ceiling_m;
};
std::optional<Heights> heightsOf(const FreeSpace& space, std::uint32_t region, double cut_m, const Ground& ground)
{
    std::vector<double> floors;
    std::vector<double> ceilings;
    const auto& cells = space.cells(region);
    const std::size_t asked = std::min(places, cells.size());
    for (std::size_t i = 0; i < asked; ++i) {
        const Vec3 at{space.at(cells[i * cells.size() / asked]), cut_m};
        const auto floor = ground.floorBelow(at, highest_m);
        const auto up_m = ground.distanceTo(at, {0.0, 0.0, 1.0}, highest_m);
        if (floor && up_m) {
            floors.push_back(floor->height_m);
            ceilings.push_back(cut_m + *up_m);
        }
    }
    if (static_cast<double>(floors.size()) < roofed * static_cast<double>(asked)) {
        return {};
    }
    const Heights heights{middleOf(floors), middleOf(ceilings)};
    return heights.ceiling_m - heights.floor_m >= lowest_m ? std::optional(heights) : std::nullopt;
}

Room roomOf(std::vector<Vec2> corners, const Heights& heights, const Project& project, const Ground& ground)
{
    Vec2 low{1e30};
    Vec2 high{-1e30};
    for (const Vec2& corner : corners) {
        low = glm::min(low, corner);
        high = glm::max(high, corner);
    }
    Room room;
    const Vec2 middle{rounded((low.x + high.x) / 2.0), rounded((low.y + high.y) / 2.0)};
    room.at = {middle, rounded(heights.floor_m)};
    for (Vec2& corner : corners) {
        corner = {rounded(corner.x - middle.x), rounded(corner.y - middle.y)};
    }
    room.shape = Prism{std::move(corners), rounded(heights.ceiling_m - heights.floor_m)};
    if (const auto survey = surveyRoom(project, room, ground)) {
        for (std::size_t band = 0; band < room.reverb.rt60_s.size(); ++band) {
            room.reverb.rt60_s[band] = std::clamp(rounded(survey->eyring_s[band]), 0.05, 30.0);
        }
        // Once across, by the mean free path 4 V / S (C. W. Kosten, Acustica 10, 1960).
        constexpr double mean = 4.0;
        const double across_s = mean * survey->volume_m3 / std::max(survey->surface_m2, 1.0) / speedOfSound_m_s;
        room.reverb.preDelay_ms = std::clamp(std::round(1000.0 * across_s), 0.0, 250.0);
    }
    return room;
}

/// What stands open at a gap: from jamb to jamb, from sill to head. Nothing where there is none.
std::optional<Opening> openingAt(const FreeSpace::Gap& gap, double cut_m, double ceiling_m, const Project& project,
                                 const Ground& ground)
{
    const Vec3 at{gap.at, cut_m};
    const Vec3 way{gap.towards, 0.0};
    const auto obstacles = ground.obstacles(project.occlusion.slender_m);
    const auto one = obstacles->faceAhead(at, way, widest_m);
    const auto other = obstacles->faceAhead(at, -way, widest_m);
    if (!one || !other || one->distance_m + other->distance_m > widest_m || one->distance_m + other->distance_m < narrowest_m) {
        return {};
    }
    const auto floor = ground.floorBelow(at, highest_m);
    if (!floor) {
        return {};
    }
    const auto up_m = ground.distanceTo(at, {0.0, 0.0, 1.0}, highest_m);
    Opening opening;
    const Vec2 from = gap.at + gap.towards * one->distance_m;
    const Vec2 to = gap.at - gap.towards * other->distance_m;
    opening.from = {rounded(from.x), rounded(from.y)};
    opening.to = {rounded(to.x), rounded(to.y)};
    opening.sill_m = rounded(floor->height_m);
    opening.head_m = rounded(std::min(up_m ? cut_m + *up_m : ceiling_m, std::max(ceiling_m, cut_m)));
    return opening.head_m > opening.sill_m ? std::optional(opening) : std::nullopt;
}

} // namespace

std::optional<RoomProposals> proposeRooms(const Project& project, const Level& level, const Storey& storey,
                                          const Ground& ground, const std::function<bool(double)>& progress)
{
    const auto goesOn = [&](double share) { return !progress || progress(share); };
    const auto obstacles = ground.obstacles(project.occlusion.slender_m);
    if (!goesOn(0.05)) {
        return {};
    }
    const FreeSpace space(PlanCutter(obstacles->mesh()).at(storey.cut_m));
    const RoomMap known(level);
    RoomProposals proposals;
    std::vector<std::optional<Heights>> heights(space.regions());
    for (std::uint32_t region = 1; region < space.regions(); ++region) {
        if (!goesOn(0.3 + 0.7 * region / space.regions())) {
            return {};
        }
        if (space.area_m2(region) < smallest_m2) {
            continue;
        }
        heights[region] = heightsOf(space, region, storey.cut_m, ground);
        if (!heights[region]) {
            continue;
        }
        const auto& cells = space.cells(region);
        const auto taken = std::count_if(cells.begin(), cells.end(), [&](std::uint32_t cell) {
            return known.roomAt({space.at(cell), storey.cut_m}) != RoomMap::outside;
        });
        if (2 * static_cast<std::size_t>(taken) >= cells.size()) {
            continue;
        }
        std::vector<Vec2> outline = space.outlineOf(region);
        if (outline.size() < 3 || crossesItself(outline)) {
            // A slit, or a thing that no outline describes: nobody stands there.
            heights[region].reset();
            continue;
        }
        proposals.rooms.push_back(roomOf(std::move(outline), *heights[region], project, ground));
        proposals.rooms.back().name = "Room " + std::to_string(level.rooms.size() + proposals.rooms.size());
    }
    std::vector<Opening> all;
    for (const auto& opening : level.openings) {
        all.push_back(*opening);
    }
    for (const FreeSpace::Gap& gap : space.gaps()) {
        const auto ceiling = [&](std::uint32_t region) {
            return region != FreeSpace::outside && heights[region] ? heights[region]->ceiling_m : highest_m;
        };
        if (!heights[gap.one] && !heights[gap.other]) {
            continue;
        }
        const auto opening = openingAt(gap, storey.cut_m, std::min(ceiling(gap.one), ceiling(gap.other)), project, ground);
        const bool there = opening && std::any_of(all.begin(), all.end(), [&](const Opening& other) {
                               const bool beside =
                                   glm::length((other.from + other.to) / 2.0 - (opening->from + opening->to) / 2.0) < same_m;
                               return beside && other.sill_m < opening->head_m && opening->sill_m < other.head_m;
                           });
        if (opening && !there) {
            all.push_back(*opening);
            proposals.openings.push_back(*opening);
            proposals.openings.back().name = "Opening " + std::to_string(all.size());
        }
    }
    return goesOn(1.0) ? std::optional(std::move(proposals)) : std::nullopt;
}

} // namespace stone
