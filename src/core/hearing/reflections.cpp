// SPDX-License-Identifier: MPL-2.0
#include "hearing/reflections.h"

#include "dsp/decibel.h"
#include "geometry/polygon.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

/// More sides than this make second reflections that nobody tells apart.
constexpr std::size_t mostSides = 10;
/// And with more than this a room is mirrored in its box.
constexpr std::size_t mostCorners = 48;
constexpr double mostAbsorbed = 0.95;
/// What walls scatter does not come back from one place.
constexpr double scattered_db = 3.0;
/// Rays round the ears that look for walls, and how old their answer may be.
constexpr int rings = 3;
constexpr int raysOfRing = 40;
constexpr double elevations_deg[rings] = {0.0, 14.0, 35.0};
constexpr double echoesStaleBy_m = 0.5;
/// Faces that are as flat as this are floors: what they give back arrives with the sound itself.
constexpr double lying = 0.7;
/// Walls that lie in one plane are one.
constexpr double sameTurn = 0.995;
constexpr double sameOffset_m = 0.3;
/// Echoes that come so soon after the sound itself colour it rather than being heard.
constexpr double soonest_m = 2.0;
/// Room for the ears, for the source and for walls that are not quite flat.
constexpr double clear_m = 0.3;

constexpr std::uint32_t floorName = 1;
constexpr std::uint32_t ceilingName = 2;

Vec2 mirrored(const Vec2& p, const Vec2& at, const Vec2& normal)
{
    return p - normal * (2.0 * glm::dot(p - at, normal));
}

/// Where the stretch from a to b crosses the one from c to d, as its share of both; nothing when it does not.
std::optional<std::pair<double, double>> crossing(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d)
{
    const Vec2 u = b - a;
    const Vec2 v = d - c;
    const double det = u.x * v.y - u.y * v.x;
    if (std::abs(det) < 1e-12) {
        return {};
    }
    const Vec2 w = c - a;
    const double t = (w.x * v.y - w.y * v.x) / det;
    const double s = (w.x * u.y - w.y * u.x) / det;
    constexpr double least = 1e-9;
    return t > least && t < 1.0 - least && s >= 0.0 && s <= 1.0 ? std::optional(std::pair(t, s)) : std::nullopt;
}

/// Whether a stretch of the plan meets no wall but those it begins or ends at.
bool free(const std::vector<Vec2>& corners, const Vec2& from, const Vec2& to, std::size_t one, std::size_t other)
{
    for (std::size_t i = 0; i < corners.size(); ++i) {
        if (i != one && i != other && crossing(from, to, corners[i], corners[(i + 1) % corners.size()])) {
            return false;
        }
    }
    return true;
}

/// Of an upright prism over an outline.
double surfaceOf_m2(const std::vector<Vec2>& corners, double height_m)
{
    double round_m = 0.0;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        round_m += glm::length(corners[(i + 1) % corners.size()] - corners[i]);
    }
    return 2.0 * std::abs(signedArea(corners)) + round_m * height_m;
}

std::uint32_t nameOf(const Vec3& normal, double offset_m)
{
    const auto part = [](double x, double steps) {
        return static_cast<std::uint32_t>(static_cast<int>(std::lround(x * steps)) & 0xFF);
    };
    const std::uint32_t name = part(normal.x, 60.0) | part(normal.y, 60.0) << 8U |
                               static_cast<std::uint32_t>(std::lround(offset_m * 5.0) & 0xFFFF) << 16U;
    return std::max<std::uint32_t>(name, 16);
}

} // namespace

Reflections::Space Reflections::spaceOf(const Level& level, std::uint32_t room) const
{
    const Room& what = *level.rooms[room];
    const Reverb& reverb = what.reverb;
    Space space;
    if (!reverb.on || reverb.early_db <= -96.0) {
        return space;
    }
    space.gain = gainOf(reverb.early_db);
    space.real = reverb.tail == Tail::none;
    if (space.real) {
        space.loss_db.fill(scattered_db);
        return space;
    }
    const Solid& solid = map_->solid(room);
    const auto [low, high] = solid.box();
    space.floor_m = low.z;
    space.ceiling_m = high.z;
    const bool outlined = std::holds_alternative<Box>(what.shape) || std::holds_alternative<Prism>(what.shape);
    if (outlined) {
        space.corners = solid.footprint().front();
    }
    if (!outlined || space.corners.size() > mostCorners) {
        space.corners = {{low.x, low.y}, {high.x, low.y}, {high.x, high.y}, {low.x, high.y}};
    }
    const bool leftIsInside = signedArea(space.corners) > 0.0;
    space.holes.resize(space.corners.size());
    for (std::size_t i = 0; i < space.corners.size(); ++i) {
        const Vec2 way = space.corners[(i + 1) % space.corners.size()] - space.corners[i];
        const double length = std::max(glm::length(way), 1e-9);
        const Vec2 left{-way.y / length, way.x / length};
        space.normals.push_back(leftIsInside ? left : -left);
        for (const std::uint32_t hole : map_->holesOf(room)) {
            const Vec3& centre = map_->holes()[hole].centre;
            const Vec2 off = Vec2(centre) - space.corners[i];
            const double along = glm::dot(off, way) / length;
            if (std::abs(glm::dot(off, left)) < 1.0 && along > 0.0 && along < length) {
                space.holes[i].push_back(hole);
            }
        }
    }
    return space;
}

Reflections::Reflections(const World& world, const RoomField& field) : map_(&field.map())
{
    const Level& level = world.level();
    if (const auto& ground = world.sharedGround()) {
        const double slender_m = world.project().occlusion.slender_m;
        obstacles_ = world.ways() == Ways::find ? ground->obstacles(slender_m) : ground->foundObstacles(slender_m);
    }
    for (std::uint32_t room = 0; room < level.rooms.size(); ++room) {
        Space space = spaceOf(level, room);
        if (!space.real && space.gain > 0.0) {
            const Bands absorbing_m2 = field.absorption_m2(room);
            const double surface_m2 = std::max(surfaceOf_m2(space.corners, space.ceiling_m - space.floor_m), 1e-6);
            std::transform(absorbing_m2.begin(), absorbing_m2.end(), space.loss_db.begin(), [surface_m2](double area_m2) {
                return -10.0 * std::log10(1.0 - std::clamp(area_m2 / surface_m2, 0.0, mostAbsorbed));
            });
        }
        spaces_.push_back(std::move(space));
    }
    outside_.real = true;
    outside_.loss_db.fill(scattered_db);
    outside_.gain = level.outside.echoes_db > -96.0 ? gainOf(level.outside.echoes_db) : 0.0;
}

/// How much of the pressure a wall gives back at a place: nothing where an opening stands open.
double Reflections::shareOf(const Space& space, std::size_t wall, const Vec3& at, const OpenShares& open) const
{
    // Over so much of its edge an opening's part comes in: no reflection jumps.
    constexpr double edge_m = 0.2;
    double share = 1.0;
    for (const std::uint32_t i : space.holes[wall]) {
        const double within = std::clamp(map_->holes()[i].toEdge_m(at) / edge_m + 0.5, 0.0, 1.0);
        share -= within * open[i];
    }
    return std::max(share, 0.0);
}

void Reflections::findFlat(const Space& space, const Vec3& ears, const Vec3& source, const OpenShares& open,
                           std::vector<Flat>& flat) const
{
    const Vec2 here(ears);
    const Vec2 there(source);
    const std::size_t sides = space.corners.size();
    const auto corner = [&](std::size_t i) { return space.corners[i % sides]; };
    const auto name = [](std::size_t first, std::size_t second) {
        return static_cast<std::uint32_t>((first << 12U | second << 4U) + 16);
    };
    constexpr std::size_t none = 0xFF;
    // Of the heights on the way only the shares of openings ask.
    const auto height = [&](double t) { return ears.z + (source.z - ears.z) * t; };
    flat.clear();
    if (free(space.corners, here, there, none, none)) {
        flat.push_back({0, 0, there, 1.0});
    }
    for (std::size_t i = 0; i < sides; ++i) {
        if (glm::dot(there - corner(i), space.normals[i]) <= 0.0) {
            continue;
        }
        const Vec2 image = mirrored(there, corner(i), space.normals[i]);
        if (const auto met = crossing(here, image, corner(i), corner(i + 1))) {
            const Vec2 at = here + (image - here) * met->first;
            if (free(space.corners, here, at, i, none) && free(space.corners, at, there, i, none)) {
                flat.push_back({name(i, none), 1, image, shareOf(space, i, {at, height(met->first)}, open)});
            }
        }
        if (sides > mostSides) {
            continue;
        }
        for (std::size_t k = 0; k < sides; ++k) {
            if (k == i || glm::dot(image - corner(k), space.normals[k]) <= 0.0) {
                continue;
            }
            // Seen from the ears the sound met wall k last.
            const Vec2 second = mirrored(image, corner(k), space.normals[k]);
            const auto last = crossing(here, second, corner(k), corner(k + 1));
            if (!last) {
                continue;
            }
            const Vec2 at = here + (second - here) * last->first;
            const auto first = crossing(at, image, corner(i), corner(i + 1));
            if (!first) {
                continue;
            }
            const Vec2 before = at + (image - at) * first->first;
            if (free(space.corners, here, at, k, none) && free(space.corners, at, before, k, i) &&
                free(space.corners, before, there, i, none)) {
                const double t = last->first + (1.0 - last->first) * first->first;
                flat.push_back(
                    {name(i, k), 2, second,
                     shareOf(space, k, {at, height(last->first)}, open) * shareOf(space, i, {before, height(t)}, open)});
            }
        }
    }
}

/// The level's upright walls round the ears.
void Reflections::look(const Vec3& ears, Scratch& scratch) const
{
    if (scratch.fresh && glm::length(scratch.from - ears) < echoesStaleBy_m) {
        return;
    }
    scratch.fresh = true;
    scratch.from = ears;
    scratch.walls.clear();
    for (const double elevation_deg : elevations_deg) {
        const double up = std::sin(elevation_deg * std::numbers::pi / 180.0);
        const double across = std::cos(elevation_deg * std::numbers::pi / 180.0);
        for (int i = 0; i < raysOfRing; ++i) {
            const double turn = 2.0 * std::numbers::pi * i / raysOfRing;
            const auto face =
                obstacles_->faceAhead(ears, {across * std::cos(turn), across * std::sin(turn), up}, furthest_m / 2.0);
            if (!face || std::abs(face->normal.z) > lying) {
                continue;
            }
            const Vec3 at = ears + Vec3{across * std::cos(turn), across * std::sin(turn), up} * face->distance_m;
            const bool known = std::any_of(scratch.walls.begin(), scratch.walls.end(), [&](const Wall& wall) {
                return glm::dot(wall.normal, face->normal) > sameTurn &&
                       std::abs(glm::dot(at - wall.at, wall.normal)) < sameOffset_m;
            });
            if (!known) {
                scratch.walls.push_back({nameOf(face->normal, glm::dot(at, face->normal)), at, face->normal});
            }
        }
    }
}

void Reflections::findReal(const Vec3& ears, const Vec3& source, bool look, const Scratch& scratch, Known& known,
                           std::vector<Reflection>& found) const
{
    std::vector<std::uint32_t> seen;
    const double direct_m = glm::length(source - ears);
    for (const Wall& wall : scratch.walls) {
        const double off = glm::dot(source - wall.at, wall.normal);
        const double own = glm::dot(ears - wall.at, wall.normal);
        if (off <= clear_m || own <= clear_m) {
            continue;
        }
        const Vec3 image = source - wall.normal * (2.0 * off);
        const double length = glm::length(image - ears);
        if (length > furthest_m || length - direct_m < soonest_m) {
            continue;
        }
        bool visible = std::find(known.seen.begin(), known.seen.end(), wall.name) != known.seen.end();
        if (look) {
            const Vec3 way = (image - ears) / length;
            const double there_m = length * own / (own + off);
            const auto face = obstacles_->faceAhead(ears, way, there_m + clear_m);
            const Vec3 at = ears + way * there_m;
            visible = face && std::abs(face->distance_m - there_m) < clear_m &&
                      glm::dot(face->normal, wall.normal) > sameTurn &&
                      obstacles_->clear({.from = at + wall.normal * (clear_m / 3.0), .to = source, .clearTo_m = clear_m});
        }
        if (visible) {
            seen.push_back(wall.name);
            found.push_back({wall.name, 1, image, length, 1.0});
        }
    }
    known.seen = std::move(seen);
}

void Reflections::find(const Vec3& ears, const Vec3& source, std::uint32_t room, const OpenShares& open, bool anew,
                       Scratch& scratch, Known& known, std::vector<Reflection>& found) const
{
    found.clear();
    const Space& space = of(room);
    if (space.gain <= 0.0) {
        return;
    }
    if (space.real) {
        if (obstacles_) {
            look(ears, scratch);
            findReal(ears, source, anew, scratch, known, found);
        }
    } else {
        thread_local std::vector<Flat> flat;
        findFlat(space, ears, source, open, flat);
        const double floor_m = 2.0 * space.floor_m - source.z;
        const double ceiling_m = 2.0 * space.ceiling_m - source.z;
        const auto add = [&](const Flat& of, std::uint32_t upright, int bounces, double z) {
            const Vec3 image{of.image, z};
            const double length = glm::length(image - ears);
            if (of.bounces + bounces > 0 && of.bounces + bounces <= 2 && of.share > 0.0 && length < furthest_m) {
                found.push_back({of.name + upright, of.bounces + bounces, image, length, of.share});
            }
        };
        for (const Flat& of : flat) {
            add(of, 0, 0, source.z);
            add(of, floorName, 1, floor_m);
            add(of, ceilingName, 1, ceiling_m);
            // Floor and ceiling, either first.
            add(of, floorName + 2 * ceilingName, 2, 2.0 * space.ceiling_m - floor_m);
            add(of, 2 * floorName + 2 * ceilingName, 2, 2.0 * space.floor_m - ceiling_m);
        }
    }
    std::sort(found.begin(), found.end(), [](const Reflection& a, const Reflection& b) {
        return a.length_m != b.length_m ? a.length_m < b.length_m : a.walls < b.walls;
    });
    if (found.size() > most) {
        found.resize(most);
    }
}

} // namespace stone
