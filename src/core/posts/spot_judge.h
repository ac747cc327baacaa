// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "hearing/model.h"
#include "posts/post_result.h"

#include <functional>
#include <vector>

namespace stone
{

/// Whether a post can be judged by standing still: at a spot or in a zone, and about no time.
bool standsStill(const Post& post);

/// Judges posts at spots and in zones by the hearing model: levels as `probe` has them with what is irregular by its mean, the
/// gaze along the post's heading, voices as they would sound together. In a zone at places a metre and a half apart, at most
/// 256 of them, at the ears' height over its floor; the worst counts. Costs what a map of as many cells costs. `goOn`: false
/// stops, and the rest is left unjudged. Any thread; uses `threads` of its own.
std::vector<PostResult> judgeStanding(const HearingModel& model, const std::vector<Post>& posts, unsigned threads,
                                      const std::function<bool()>& goOn = {});

/// Where a post in a zone is judged: feet.
std::vector<Vec3> placesIn(const World& world, const ZoneId& zone);

} // namespace stone
