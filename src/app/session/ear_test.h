// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/scene.h"
#include "geometry/pose.h"

#include <memory>
#include <optional>

namespace stone
{

/// A sound of its own to try an output with: short bursts of noise, two metres ahead of ears that are at earTestPose(0). At the
/// engine's rate; `head`: for headphones; null: the built-in one. Throws nothing.
std::shared_ptr<const Scene> earTestScene(int rate, const SharedHead& head);

/// Where the ears are so that it comes from there, degrees clockwise from ahead.
Pose earTestPose(double from_deg);

/// Where it comes from after so many seconds when it goes round once in eight: from ahead to the right first.
double goneRound_deg(double seconds);

} // namespace stone
