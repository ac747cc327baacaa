// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/walk_recorder.h"

#include "world/walk_making.h"

#include <cmath>
#include <utility>

namespace stone
{

namespace
{

WalkPoint momentOf(double t_s, const Pose& feet)
{
    return {.t_s = t_s, .at = feet.at, .heading_deg = feet.heading_deg, .pitch_deg = feet.pitch_deg};
}

} // namespace

void WalkRecorder::begin(const Pose& feet)
{
    moments_ = {momentOf(0.0, feet)};
    events_.clear();
}

void WalkRecorder::add(double seconds, const Pose& feet)
{
    if (recording() && seconds > 0.0) {
        moments_.push_back(momentOf(this->seconds() + seconds, feet));
    }
}

void WalkRecorder::addEvent(WalkEvent event)
{
    if (recording()) {
        event.t_s = std::round(seconds() * 1000.0) / 1000.0;
        events_.push_back(std::move(event));
    }
}

Walk WalkRecorder::end()
{
    Walk walk;
    walk.points = recordedPoints(std::exchange(moments_, {}));
    walk.events = std::exchange(events_, {});
    return walk;
}

} // namespace stone
