#include "app/session/walk_recorder.h"

#include "world/walk_making.h"

#include <cmath>
#include <utility>

namespace stone
{

namespace
{

constexpr double off_m = 0.005;
constexpr double off_deg = 0.5;

WalkPoint momentOf(double t_s, const Pose& feet)
{
    return {.t_s = t_s, .at = feet.at, .heading_deg = feet.heading_deg, .pitch_deg = feet.pitch_deg};
}

/// Written as short as it is exact: a document full of digits reads badly.
double rounded(double number, double steps)
{
    return std::round(number * steps) / steps;
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
        event.t_s = rounded(seconds(), 1000.0);
        events_.push_back(std::move(event));
    }
}

Walk WalkRecorder::end()
{
    Walk walk;
    walk.points = simplified(std::exchange(moments_, {}), off_m, off_deg);
    for (WalkPoint& point : walk.points) {
        point.t_s = rounded(point.t_s, 1000.0);
        point.at = {rounded(point.at.x, 1000.0), rounded(point.at.y, 1000.0), rounded(point.at.z, 1000.0)};
        point.heading_deg = rounded(*point.heading_deg, 10.0);
        point.pitch_deg = rounded(point.pitch_deg, 10.0);
    }
    walk.events = std::exchange(events_, {});
    return walk;
}

} // namespace stone
