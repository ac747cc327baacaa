// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "world/room_map.h"
#include "world/zone_map.h"

#include <optional>
#include <vector>

namespace stone
{

/// How deep places lie in zones, counted along the shortest way from an opening by which one comes in from the zone above: a
/// cellar behind a wall is far from the yard, however thin the wall. Where a place is reached depends on nothing but the place,
/// so that somebody may have begun inside. Immutable.
class NestingDepths
{
public:
    NestingDepths() = default;
    NestingDepths(const RoomMap& rooms, const ZoneMap& zones);

    /// Nothing where the zone has no zone above it, moves, or no opening leads out of it, and for places in no room of it. Both
    /// maps as given before. Never less than nothing; continuous through openings.
    std::optional<double> depth_m(const RoomMap& rooms, const ZoneMap& zones, std::uint32_t zone, const Vec3& place) const;

private:
    struct Nest {
        std::vector<bool> within;       ///< by room; empty: nothing is known of the zone
        std::vector<double> way_m;      ///< by opening: from the zone's border to its middle; infinite where none leads
        std::vector<std::uint32_t> via; ///< by opening: the one before it on that way; itself where one comes in
    };
    static Nest nestOf(const RoomMap& rooms, const ZoneMap& zones, std::uint32_t zone);
    static double through(const RoomMap& rooms, const Solid& zone, const Nest& nest, std::uint32_t hole, Vec3 place);

    std::vector<Nest> nests_; ///< by zone
};

} // namespace stone
