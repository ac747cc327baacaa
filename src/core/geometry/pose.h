// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

namespace stone
{

/// Where something is and which way it faces. Angles in degrees, any finite value.
///
/// Heading runs clockwise from north (0 = +Y, 90 = +X), pitch is positive when looking up, roll is positive when the
/// head tips to its right (the right ear goes down). They are applied in the order heading, pitch, roll.
struct Pose {
    Vec3 at{0.0};
    double heading_deg = 0.0;
    double pitch_deg = 0.0;
    double roll_deg = 0.0;

    bool operator==(const Pose&) const = default;
};

/// Unit vectors of a pose in level coordinates.
struct Frame {
    Vec3 ahead;
    Vec3 right;
    Vec3 up;

    /// A way as it is seen from there: x to the right, y ahead, z up.
    Vec3 seen(const Vec3& way) const { return {glm::dot(way, right), glm::dot(way, ahead), glm::dot(way, up)}; }
};

/// The heading of a way, as the plan has it; 0 for one that goes nowhere in it.
double headingAlong(const Vec3& way);

/// A unit vector.
Vec3 aheadOf(double heading_deg, double pitch_deg);
Frame frameOf(const Pose& pose);

/// A direction as seen from a pose.
struct Bearing {
    double distance_m = 0.0;
    double azimuth_deg = 0.0;   ///< positive to the right, 0 ahead, in [-180, 180); 0 at distance 0
    double elevation_deg = 0.0; ///< positive above, in [-90, 90]; 0 at distance 0
    Vec3 local{0.0};            ///< the offset itself: x to the right, y ahead, z above, metres
};

Bearing bearingOf(const Frame& frame, const Vec3& from, const Vec3& to);

/// Between two poses: positions straight, angles the short way round. t in [0, 1].
Pose interpolate(const Pose& a, const Pose& b, double t);

} // namespace stone
