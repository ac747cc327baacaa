// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/range_grips.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

using End = RangeGrip::End;

Vec2 polar(double angle_deg, double distance_m)
{
    return Vec2{std::sin(radians(angle_deg)), std::cos(radians(angle_deg))} * distance_m;
}

double tenth(double number)
{
    return std::round(number * 10.0) / 10.0;
}

} // namespace

std::vector<RangeGrip> rangeGripsOf(const Sprinkling& s)
{
    if (s.where == Sprinkling::Where::ring) {
        const double middle = (s.fromAngle_deg + s.toAngle_deg) / 2.0;
        // Apart even where both angles are behind the player.
        const auto between = [&](double share) { return s.nearest_m + (s.farthest_m - s.nearest_m) * share; };
        return {{End::nearest, polar(middle, s.nearest_m)},
                {End::farthest, polar(middle, s.farthest_m)},
                {End::fromAngle, polar(s.fromAngle_deg, between(0.35))},
                {End::toAngle, polar(s.toAngle_deg, between(0.65))}};
    }
    if (s.where == Sprinkling::Where::box) {
        const Vec2 middle{(s.low_m.x + s.high_m.x) / 2.0, (s.low_m.y + s.high_m.y) / 2.0};
        return {{End::left, {s.low_m.x, middle.y}},
                {End::right, {s.high_m.x, middle.y}},
                {End::behind, {middle.x, s.low_m.y}},
                {End::ahead, {middle.x, s.high_m.y}}};
    }
    return {};
}

Sprinkling pulled(Sprinkling s, End end, const Vec2& to)
{
    const double angle = std::round(degrees(std::atan2(to.x, to.y)));
    const double distance = tenth(glm::length(to));
    // Angles go on where they were: -170 and 190 are one direction, but not one end of a range.
    const auto near = [&](double before) { return angle + 360.0 * std::round((before - angle) / 360.0); };
    switch (end) {
    case End::nearest: s.nearest_m = std::min(distance, s.farthest_m); break;
    case End::farthest: s.farthest_m = std::max(distance, s.nearest_m); break;
    case End::fromAngle:
        s.fromAngle_deg = std::clamp(near(s.fromAngle_deg), std::max(s.toAngle_deg - 360.0, -360.0), s.toAngle_deg);
        break;
    case End::toAngle:
        s.toAngle_deg = std::clamp(near(s.toAngle_deg), s.fromAngle_deg, std::min(s.fromAngle_deg + 360.0, 360.0));
        break;
    case End::left: s.low_m.x = std::min(tenth(to.x), s.high_m.x); break;
    case End::right: s.high_m.x = std::max(tenth(to.x), s.low_m.x); break;
    case End::behind: s.low_m.y = std::min(tenth(to.y), s.high_m.y); break;
    case End::ahead: s.high_m.y = std::max(tenth(to.y), s.low_m.y); break;
    }
    return s;
}

} // namespace stone
