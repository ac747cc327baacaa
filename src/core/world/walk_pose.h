// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/pose.h"
#include "project/document.h"

namespace stone
{

/// Where the walker's feet are at a time and which way they face. Straight between points; held before the first and
/// after the last. Headings that were left out follow the way, turned into over the last and first half second of two
/// legs so that a corner is not a step. An empty walk stands at the origin.
Pose walkPose(const Walk& walk, double time_s);

/// The character's head.
Pose headOf(const Character& character, const Pose& feet);

/// The character's start.
Pose startPose(const Character& character);

} // namespace stone
