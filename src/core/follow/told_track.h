// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/leap.h"
#include "geometry/pose.h"

#include <deque>
#include <optional>

namespace stone
{

/// Where something is over time, from poses that come now and then, early, late and in no order, as one smooth way: between two
/// poses straight on, after the last one on as before for as long as `onwards_s`, then it stands. What comes as a surprise is
/// made up for within some hundredths of a second; more than `leap_m` at once is a leap. For one thread.
class ToldTrack
{
public:
    static constexpr double onwards_s = 0.08;

    /// A pose at a time; one at a time that is known takes its place.
    void add(double time_s, const Pose& pose);

    struct Where {
        Pose pose;
        bool leapt = false; ///< it was put there since it was asked last
    };
    /// Where it is at a time not before the last one asked for; nothing while none is known by then.
    std::optional<Where> at(double time_s);

private:
    struct Told {
        double time_s;
        Pose pose;
    };

    std::optional<Pose> told(double time_s) const;

    std::deque<Told> told_;  ///< in order of time
    bool surprised_ = false; ///< something came since it was asked last
    std::optional<double> askedAt_s_;
    Pose shown_; ///< then
    /// By which what is shown is off what was told, and fades.
    Vec3 off_{0.0};
    double headingOff_deg_ = 0.0;
    double pitchOff_deg_ = 0.0;
    double rollOff_deg_ = 0.0;
};

} // namespace stone
