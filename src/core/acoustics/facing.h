// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/curve.h"
#include "geometry/pose.h"

namespace stone
{

/// Degrees between an emitter's front and the way from it to the ears, elevation counted; 0 to 180. 0 where the two
/// coincide, which leaves a sound that one stands in as it is. heading and tilt as for a Pose.
double offFront_deg(double heading_deg, double tilt_deg, const Vec3& emitter, const Vec3& ears);

/// The level of two angles at an angle off the front, dB: linear in pressure gain between them (W3C Web Audio API,
/// "Sound Cones", whose outer gain is `behind`). An outer angle inside the inner one makes a step at the inner one.
double coneLevel_db(const TwoAngles& angles, double off_deg);

/// The same for other properties: linear in their own measure between the angles.
double twoAngleValue(const TwoAngles& angles, double off_deg, CurveScale scale);

} // namespace stone
