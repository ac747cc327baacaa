// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/level_loader.h"

#include <vector>

namespace stone
{

/// The way between places as a character goes it: over slopes and stairs, with a point wherever the floor turns up or down.
struct WayOnFloor {
    std::vector<Vec3> points;
    std::size_t blocked = 0; ///< legs on which walls or a missing floor stand in the way: there it goes straight
};

/// `places`: each with about the height of the floor that is meant. In a level without surfaces they are taken as they are.
WayOnFloor wayOnFloor(const LoadedLevel& level, const std::vector<Vec3>& places);

/// A place put down on the floor below it, however far; as it is where there is none.
Vec3 onFloorBelow(const LoadedLevel& level, const Vec3& place);

/// A place put down on the floor at or a little above or below it; as it is where there is none.
Vec3 onFloorNear(const LoadedLevel& level, const Vec3& place);

} // namespace stone
