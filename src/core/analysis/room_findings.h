#pragma once

#include "analysis/findings.h"

namespace stone
{

/// Slips in a level's rooms and openings: openings that join nothing, rooms that cut into each other, shapes without a volume,
/// game values that are gone.
void findInRooms(const Project& project, const Level& level, std::vector<Finding>& found);

} // namespace stone
