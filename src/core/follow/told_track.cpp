// SPDX-License-Identifier: MPL-2.0
#include "follow/told_track.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// In which a surprise fades to a third.
constexpr double settles_s = 0.03;
/// What is older plays no part any more.
constexpr double kept_s = 1.0;
constexpr std::size_t mostKept = 512;
/// Two poses further apart in time say nothing about how fast something goes.
constexpr double together_s = 0.25;

bool leaps(const Pose& from, const Pose& to)
{
    return glm::length(to.at - from.at) > leap_m;
}

} // namespace

void ToldTrack::add(double time_s, const Pose& pose)
{
    const auto after = std::find_if(told_.begin(), told_.end(), [&](const Told& known) { return known.time_s >= time_s; });
    if (after != told_.end() && after->time_s == time_s) {
        after->pose = pose;
    } else {
        told_.insert(after, {time_s, pose});
    }
    if (told_.size() > mostKept) {
        told_.pop_front();
    }
    surprised_ = true;
}

std::optional<Pose> ToldTrack::told(double time_s) const
{
    const auto next = std::find_if(told_.begin(), told_.end(), [&](const Told& known) { return known.time_s > time_s; });
    if (next == told_.begin()) {
        return {};
    }
    const Told& before = *std::prev(next);
    if (next != told_.end()) {
        if (leaps(before.pose, next->pose)) {
            return before.pose;
        }
        return interpolate(before.pose, next->pose, (time_s - before.time_s) / (next->time_s - before.time_s));
    }
    if (told_.size() < 2) {
        return before.pose;
    }
    const Told& earlier = *std::prev(next, 2);
    const double apart_s = before.time_s - earlier.time_s;
    if (apart_s > together_s || leaps(earlier.pose, before.pose)) {
        return before.pose;
    }
    return interpolate(earlier.pose, before.pose, 1.0 + std::min(time_s - before.time_s, onwards_s) / apart_s);
}

std::optional<ToldTrack::Where> ToldTrack::at(double time_s)
{
    const auto now = told(time_s);
    if (!now) {
        return {};
    }
    Where where{*now};
    if (!askedAt_s_) {
        where.leapt = true;
    } else {
        const double seconds = std::max(time_s - *askedAt_s_, 0.0);
        const double fades = std::exp(-seconds / settles_s);
        if (surprised_) {
            // What is known now of the moment that was shown: by that much it was off.
            const Pose then = told(*askedAt_s_).value_or(*now);
            off_ = shown_.at - then.at;
            headingOff_deg_ = wrapDegrees(shown_.heading_deg - then.heading_deg);
            pitchOff_deg_ = wrapDegrees(shown_.pitch_deg - then.pitch_deg);
            rollOff_deg_ = wrapDegrees(shown_.roll_deg - then.roll_deg);
        }
        off_ *= fades;
        headingOff_deg_ *= fades;
        pitchOff_deg_ *= fades;
        rollOff_deg_ *= fades;
        const Pose sought{now->at + off_, now->heading_deg + headingOff_deg_, now->pitch_deg + pitchOff_deg_,
                          now->roll_deg + rollOff_deg_};
        if (leaps(shown_, sought) || glm::length(off_) > leap_m) {
            where.leapt = true;
            off_ = Vec3{0.0};
            headingOff_deg_ = pitchOff_deg_ = rollOff_deg_ = 0.0;
        } else {
            where.pose = sought;
        }
    }
    shown_ = where.pose;
    askedAt_s_ = time_s;
    surprised_ = false;
    while (told_.size() > 2 && told_[1].time_s < time_s - kept_s) {
        told_.pop_front();
    }
    return where;
}

} // namespace stone
