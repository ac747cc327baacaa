// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/ground.h"
#include "project/document.h"

#include <functional>
#include <optional>
#include <vector>

namespace stone
{

/// Rooms and openings as the level's geometry suggests them.
struct RoomProposals {
    std::vector<Room> rooms; ///< without ids; upright over their outlines, RT60 by Eyring from what their walls are made of
    std::vector<Opening> openings; ///< without ids, where two of them, or one and the outside, are joined by a gap
};

/// Looks for rooms at the height at which a storey is cut: what is free there is divided where it narrows, as at doors; what
/// has a floor and a ceiling over most of it is a room, everything else the outside. Rooms and openings that the level has
/// already are not proposed again. Some tenths of a second for a large storey; `progress` gets 0 to 1 and stops it by returning
/// false: then there is nothing.
std::optional<RoomProposals> proposeRooms(const Project& project, const Level& level, const Storey& storey,
                                          const Ground& ground, const std::function<bool(double)>& progress);

} // namespace stone
