// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/shape.h"
#include "project/edge_rules.h"
#include "project/id.h"
#include "project/lane.h"

#include <array>
#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// What differs between one copy of a plant rule and the others.
struct OddCopy {
    std::string copy;               ///< which: see PlantSpot::key. It stays when the place moves a little
    Vec3 at{0.0};                   ///< where the rule had it
    bool leftOut = false;           ///< there is none; what was let loose stands among the emitters
    std::optional<double> level_db; ///< instead of the pattern's
    Extras extras{};

    bool operator==(const OddCopy&) const = default;
};

/// A rule that puts copies of a pattern into a level by its geometry. The document holds the rule; what it puts where is
/// found out by whoever needs it, see plant() in world/planting.h.
struct Plant {
    enum class Where {
        line,     ///< every so far along a drawn line
        edges,    ///< every so far along the edges of the floor
        corners,  ///< where such an edge bends
        shape,    ///< strewn in a shape
        surface,  ///< strewn over all floor of a surface
        nodes,    ///< at named nodes of the level's geometry
        openings, ///< in openings
        route     ///< every so far along a Roamer's way
    };
    static constexpr double usualApart_m = 2.0;

    PlantId id;
    std::string name;
    bool on = true;
    PatternId pattern; ///< what is copied: a Point, an Area or a Sprinkle
    Where where = Where::line;
    std::array<bool, edgeKindCount> edges{true}; ///< by EdgeKind, of edges and corners
    std::string surface;                         ///< of the floor; empty: any
    std::string names = "*";                     ///< of nodes and openings: * for any letters, ? for one
    EmitterId roamer;                            ///< of the route
    Vec3 at{0.0};                                ///< of the shape, of which a line uses a Ribbon's middle
    double heading_deg = 0.0;
    Shape shape = Ribbon{};
    double every_m = 5.0;          ///< along lines, edges and routes; what is left over is left in equal parts at both ends
    double bend_deg = 30.0;        ///< from which on a bend counts as a corner
    double apart_m = usualApart_m; ///< no two are nearer to each other; 0: that does not matter
    Vec3 offset{0.0};              ///< aside, ahead and up; ahead is the way along, aside of an edge is beyond it
    bool turns = true;             ///< faces along the way, turned by `turn_deg`; else to that heading
    double turn_deg = 0.0;         ///< clockwise
    double tilt_deg = 0.0;         ///< of the front, positive upwards
    bool onFloor = false;          ///< stands on the floor below, if there is any within 20 m
    double chance = 1.0;           ///< of each place to get one
    ZoneId zone;                   ///< only inside it; empty: anywhere
    double lowest_m = -10'000.0;   ///< only from this height on
    double highest_m = 10'000.0;   ///< and up to this; >= lowest_m
    std::vector<OddCopy> exceptions;
    Extras extras{};

    bool operator==(const Plant&) const = default;
};
constexpr std::size_t plantWhereCount = 8;

/// As the document and the command line write it.
const char* wordOf(Plant::Where where);

/// Whether it has copies every so far.
constexpr bool goesAlong(Plant::Where where)
{
    return where == Plant::Where::line || where == Plant::Where::edges || where == Plant::Where::route;
}
/// Whether copies are strewn.
constexpr bool strews(Plant::Where where)
{
    return where == Plant::Where::shape || where == Plant::Where::surface;
}
/// Whether it asks for the edges of the floor.
constexpr bool needsEdges(Plant::Where where)
{
    return where == Plant::Where::edges || where == Plant::Where::corners;
}
/// Whether it can put nothing anywhere without a level's geometry.
constexpr bool needsGeometry(Plant::Where where)
{
    return needsEdges(where) || where == Plant::Where::nodes || where == Plant::Where::surface;
}

} // namespace stone
