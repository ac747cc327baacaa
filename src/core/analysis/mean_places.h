// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "world/world.h"

#include <cstdint>
#include <vector>

namespace stone
{

/// One of the places over which something irregular is spread, and its part in the mean: of its energy over its time.
struct MeanPlace {
    Vec3 at{0.0};         ///< in the level, or, for one that falls round the player, from the character's feet
    bool follows = false; ///< the latter
    double share = 0.0;   ///< of the time, 0 or more: what sounds twice at a time on the average counts twice
};

/// What sounds now here, now there, and only now and then.
bool isIrregular(const World& world, std::uint32_t emitter);

/// Where a sprinkle or a Roamer sounds on the average. A sprinkle: eight places, drawn as it draws them, of which each has
/// its part of the time in which something of it sounds (length over mean time from start to start, at most as many as
/// sound at once, less what it skips). A Roamer: where it is at 16 moments of its first round, at rest left out where it is
/// heard only on the way. Walls round a place that is drawn are not looked at. Any thread.
std::vector<MeanPlace> meanPlaces(const World& world, std::uint32_t emitter);

} // namespace stone
