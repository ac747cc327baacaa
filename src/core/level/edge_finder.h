// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/floor_edges.h"
#include "level/ground.h"

#include <atomic>

namespace stone
{

/// How much of the body's height has to be free over a floor for it to count.
constexpr double floorHeadroom_m = 1.8;
/// Gaps no wider are stepped over.
constexpr double narrowGap_m = 0.15;

/// The edges of what can be walked on: of all floors that rise by less than 45 degrees and have room over them, and that can be
/// come to, on foot or by falling no more than WalkSurface::mostFall_m, from where the floor is largest, from a place that is
/// given, or from what is large and has something over it: roofs do not. What is neither floor nor wall is slope: the ground
/// beyond it counts where it begins within a stride. Edges lie where the level's corners and faces do; where they begin and end
/// along these is found to a millimetre. Takes seconds for hundreds of thousands of triangles: not for a thread that somebody
/// waits for. `stands`: a place whose floor can be stood on. `stop`: empty when it becomes true meanwhile.
std::vector<FloorEdge> findFloorEdges(const Ground& ground, const EdgeRules& rules, const std::optional<Vec3>& stands = {},
                                      const std::atomic<bool>* stop = nullptr);

/// Whether a material counts as water by these rules.
bool isWater(const EdgeRules& rules, const std::string& material);

} // namespace stone
