// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "world/moment.h"

#include <vector>

namespace stone
{

/// Whether a gaze is for an emitter.
bool isFor(const Gaze& gaze, const Emitter& emitter);

/// Degrees from a unit vector to a way, 0 to 180; 0 where the way has no length.
double angleBetween_deg(const Vec3& ahead, const Vec3& way);

/// Degrees between where somebody looks and the way to a place, 0 to 180: on the horizon or in space. 0 where the two
/// coincide.
double offGaze_deg(const Pose& gaze, const Vec3& place, bool horizontal);

/// The factor by which the gazes of a project can bring an emitter nearer at most, 1 or less, and the most level that they
/// give it, 0 or more.
struct GazeMost {
    double nearness = 1.0;
    double level_db = 0.0;
};
GazeMost mostOfGazes(const Project& project, const Emitter& emitter);

} // namespace stone
