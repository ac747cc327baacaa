// SPDX-License-Identifier: MPL-2.0
#include "world/walk_pose.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace stone
{

namespace
{

constexpr double turnTime_s = 0.5;

/// The heading of the leg from point `i` to the next; nothing when the walker stands still.
std::optional<double> legHeading(const Walk& walk, std::size_t i)
{
    if (i + 1 >= walk.points.size()) {
        return {};
    }
    const Vec3 way = walk.points[i + 1].at - walk.points[i].at;
    if (std::hypot(way.x, way.y) < 1e-6) {
        return {};
    }
    return headingAlong(way);
}

/// The heading that holds on a leg when none is given: its own or, standing still, that of the nearest leg before or
/// after.
double wayHeading(const Walk& walk, std::size_t leg)
{
    for (std::size_t i = leg + 1; i-- > 0;) {
        if (const auto heading = legHeading(walk, i)) {
            return *heading;
        }
    }
    for (std::size_t i = leg + 1; i + 1 < walk.points.size(); ++i) {
        if (const auto heading = legHeading(walk, i)) {
            return *heading;
        }
    }
    return 0.0;
}

/// The heading in the middle of a turn at a point: as given there, else half way between the legs that meet.
double headingAt(const Walk& walk, std::size_t point)
{
    if (walk.points[point].heading_deg) {
        return *walk.points[point].heading_deg;
    }
    const double out = wayHeading(walk, std::min(point, walk.points.size() - 1));
    const double in = point > 0 ? wayHeading(walk, point - 1) : out;
    return in + wrapDegrees(out - in) / 2.0;
}

} // namespace

Pose walkPose(const Walk& walk, double time_s)
{
    const auto& points = walk.points;
    if (points.empty()) {
        return {};
    }
    const auto after =
        std::upper_bound(points.begin(), points.end(), time_s, [](double t, const WalkPoint& point) { return t < point.t_s; });
    if (after == points.begin() || after == points.end()) {
        const std::size_t end = after == points.begin() ? 0 : points.size() - 1;
        return {points[end].at, headingAt(walk, end), points[end].pitch_deg, 0.0};
    }
    const auto next = static_cast<std::size_t>(after - points.begin());
    const std::size_t leg = next - 1;
    const WalkPoint& a = points[leg];
    const WalkPoint& b = points[next];
    const double length_s = b.t_s - a.t_s;
    const double t = (time_s - a.t_s) / length_s;
    const double from = headingAt(walk, leg);
    const double to = headingAt(walk, next);
    Pose pose = interpolate({a.at, from, a.pitch_deg, 0.0}, {b.at, to, b.pitch_deg, 0.0}, t);
    if (!a.heading_deg || !b.heading_deg) {
        // Along the way in the middle of the leg, turning near its ends.
        const double way = wayHeading(walk, leg);
        const double turn_s = std::min(turnTime_s, length_s / 2.0);
        const double in = std::clamp((time_s - a.t_s) / turn_s, 0.0, 1.0);
        const double out = std::clamp((b.t_s - time_s) / turn_s, 0.0, 1.0);
        const double arriving = b.heading_deg ? way + wrapDegrees(to - way) * t : way + wrapDegrees(to - way) * (1.0 - out);
        const double leaving = a.heading_deg ? wrapDegrees(from - way) * (1.0 - t) : wrapDegrees(from - way) * (1.0 - in);
        pose.heading_deg = arriving + leaving;
    }
    return pose;
}

Pose headOf(const Character& character, const Pose& feet)
{
    Pose head = feet;
    head.at.z += character.earsHeight_m;
    return head;
}

Pose startPose(const Character& character)
{
    return {character.start, character.heading_deg, 0.0, 0.0};
}

} // namespace stone
