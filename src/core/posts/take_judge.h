// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "posts/post_result.h"
#include "takes/take_reader.h"

#include <functional>
#include <vector>

namespace stone
{

/// Judges posts along a take, by what was measured in it: any take, one recorded elsewhere too. Emitters are known by their ids
/// or, where those are not in the take, by their names. The level's posts count, those of other walks than the take's are not
/// among the results. Levels: at each moment what all copies of an emitter give together. Where a walk was taken freely its
/// stretches count from the take's beginning. `progress`: 0 to 1, false stops.
std::vector<PostResult> judgeTake(const Take& take, const Level& level, const std::vector<Post>& posts,
                                  const std::function<bool(double)>& progress = {});

/// One post along all of a take, whatever walk it names.
PostResult judgeAlong(const Take& take, const Level& level, const Post& post);

} // namespace stone
