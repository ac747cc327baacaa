// SPDX-License-Identifier: MPL-2.0
#include "geometry/pose.h"

#include <algorithm>
#include <cmath>

namespace stone
{

double wrapDegrees(double angle_deg)
{
    const double wrapped = std::fmod(angle_deg + 180.0, 360.0);
    return (wrapped < 0.0 ? wrapped + 360.0 : wrapped) - 180.0;
}

double headingAlong(const Vec3& way)
{
    return degrees(std::atan2(way.x, way.y));
}

Vec3 aheadOf(double heading_deg, double pitch_deg)
{
    const double h = radians(heading_deg);
    if (pitch_deg == 0.0) {
        return {std::sin(h), std::cos(h), 0.0};
    }
    const double p = radians(pitch_deg);
    return {std::sin(h) * std::cos(p), std::cos(h) * std::cos(p), std::sin(p)};
}

Frame frameOf(const Pose& pose)
{
    const double h = radians(pose.heading_deg);
    const double r = radians(pose.roll_deg);
    const Vec3 ahead = aheadOf(pose.heading_deg, pose.pitch_deg);
    const Vec3 levelRight{std::cos(h), -std::sin(h), 0.0};
    const Vec3 pitchedUp = glm::cross(levelRight, ahead);
    return {ahead, levelRight * std::cos(r) - pitchedUp * std::sin(r), pitchedUp * std::cos(r) + levelRight * std::sin(r)};
}

Bearing bearingOf(const Frame& frame, const Vec3& from, const Vec3& to)
{
    const Vec3 offset = to - from;
    Bearing bearing;
    bearing.distance_m = glm::length(offset);
    bearing.local = frame.seen(offset);
    if (bearing.distance_m > 0.0) {
        bearing.azimuth_deg = wrapDegrees(degrees(std::atan2(bearing.local.x, bearing.local.y)));
        bearing.elevation_deg = degrees(std::asin(std::clamp(bearing.local.z / bearing.distance_m, -1.0, 1.0)));
    }
    return bearing;
}

Pose interpolate(const Pose& a, const Pose& b, double t)
{
    const auto turn = [t](double from, double to) { return from + wrapDegrees(to - from) * t; };
    return {a.at + (b.at - a.at) * t, turn(a.heading_deg, b.heading_deg), turn(a.pitch_deg, b.pitch_deg),
            turn(a.roll_deg, b.roll_deg)};
}

} // namespace stone
