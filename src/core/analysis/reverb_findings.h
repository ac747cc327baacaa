// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"
#include "world/room_map.h"

namespace stone
{

/// Slips in what rooms and walls answer: responses that cannot be read, indoor tails under open sky, reverb that changes at a
/// stroke on a walk, emitters that were left dry, echoes where there are no walls. `ground`: null for a level without geometry.
void findInReverb(const Examined& examined, const Level& level, const RoomMap& map, const Ground* ground,
                  std::vector<Finding>& found);

} // namespace stone
