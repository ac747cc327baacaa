// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/pose.h"

#include <limits>

namespace stone
{

struct WorldState;

/// A stretch of time since the start of the level. The default is all of it: what would be heard while it sounds.
struct TimeSpan {
    double from_s = -std::numeric_limits<double>::infinity();
    double to_s = std::numeric_limits<double>::infinity();

    static TimeSpan at(double time_s) { return {time_s, time_s}; }
    bool always() const { return !(to_s < std::numeric_limits<double>::infinity()); }
};

/// Where the ears are, which way they face and how fast they move.
struct Ears : Pose {
    Vec3 velocity_m_s{0.0};

    Ears() = default;
    Ears(const Pose& pose, const Vec3& velocity = Vec3{0.0}) : Pose(pose), velocity_m_s(velocity) {}
    Ears(const Vec3& place, double heading, double pitch, double roll) : Pose{place, heading, pitch, roll} {}
};

/// When and from where something is looked at or heard.
struct Moment {
    Ears ears;
    TimeSpan when;
    /// The character's feet, whoever listens. Without a character: under the ears.
    Pose feet;
    /// What has happened so far; null: as if nothing had, with all game values at rest.
    const WorldState* state = nullptr;

    /// The place that counts for entering zones.
    Vec3 visitor{0.0};
    /// The place from which the nearest one of an area or a zone is looked for; the ears, if nobody says otherwise.
    Vec3 nearest{0.0};
    /// Whose look counts for the gaze; that of the ears, if nobody says otherwise.
    Pose gaze;

    Moment() = default;
    /// Somebody who stands where the ears are, in a level where nothing has happened.
    Moment(const Ears& ears_, const TimeSpan& when_)
        : ears(ears_), when(when_), feet(ears_), visitor(ears_.at), nearest(ears_.at), gaze(ears_)
    {
        feet.at.z -= 1.6;
    }
    Moment(const Ears& ears_, const TimeSpan& when_, const Pose& feet_, const Vec3& visitor_, const WorldState* state_)
        : ears(ears_), when(when_), feet(feet_), state(state_), visitor(visitor_), nearest(ears_.at), gaze(ears_)
    {
    }
};

} // namespace stone
