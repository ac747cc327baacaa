// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"
#include "world/room_map.h"

namespace stone
{

/// Slips in a level's rooms and openings: openings that join nothing, rooms that cut into each other, shapes without a volume,
/// game values that are gone. `map`: of the level.
void findInRooms(const Project& project, const Level& level, const RoomMap& map, std::vector<Finding>& found);

} // namespace stone
