// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/floor_edges.h"
#include "level/ground.h"
#include "project/document.h"
#include "world/route.h"

#include <memory>
#include <string>
#include <vector>

namespace stone
{

/// A place where a plant rule puts a copy.
struct PlantSpot {
    /// Of a node its name, of an opening its id, and of all others the place to the centimetre: "12.34,5.00,0.00".
    std::string key;
    Vec3 at{0.0};             ///< on the line, the edge, the floor: without the rule's offset
    double heading_deg = 0.0; ///< of the way along, as a Pose has it

    bool operator==(const PlantSpot&) const = default;
};

/// More of one rule are not planted, and what would have to be tried for that many is not tried.
constexpr std::size_t mostPlanted = 20'000;

enum class PlantTrouble {
    none,
    off,
    noPattern,
    notPlantable, ///< the pattern is of a kind that has no place of its own
    noGeometry,
    waits, ///< the edges of the floor are not found yet
    noRoamer,
    tooMany
};

/// What the places of a rule depend on beside itself. Two that are equal give the same places.
struct PlantSurroundings {
    std::uint64_t seed = 0;
    std::shared_ptr<const Ground> ground;    ///< null without geometry
    std::shared_ptr<const FloorEdges> edges; ///< of rules that need them; null while they are not found
    std::shared_ptr<const Zone> zone;        ///< that the rule names; null without
    std::shared_ptr<const Emitter> roamer;   ///< the same
    List<Opening> openings;                  ///< of a rule about openings
    Ways ways = Ways::find;

    bool operator==(const PlantSurroundings& other) const;
};

struct PlantSpots {
    std::vector<PlantSpot> spots;
    PlantTrouble trouble = PlantTrouble::none;
    bool settled = true; ///< false: ways are not found yet, and the places may change
};

/// The places of a rule, in an order that is always the same. Takes time with the length of what it goes along, or with what
/// has to be tried of what it strews: up to tenths of a second.
///
/// What is strewn is drawn from a grid that lies fast in the level, each cell's place and rank by chance; whoever ranks first
/// keeps others at a distance (R. L. Cook, ACM Trans. Graphics 5, 1986: a Poisson disc). So a border that moves changes nothing
/// but what is near it.
PlantSpots spotsOf(const Plant& plant, const PlantSurroundings& around);

} // namespace stone
