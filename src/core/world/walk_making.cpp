// SPDX-License-Identifier: MPL-2.0
#include "world/walk_making.h"

#include "geometry/pose.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <utility>

namespace stone
{

namespace
{

constexpr double least_s = 0.01;
constexpr double samePlace_m = 1e-3;

double toMillisecond(double seconds)
{
    return std::round(seconds * 1000.0) / 1000.0;
}

double legLength_m(const Walk& walk, std::size_t leg)
{
    return glm::length(walk.points[leg + 1].at - walk.points[leg].at);
}

double legTime_s(const Walk& walk, std::size_t leg)
{
    return walk.points[leg + 1].t_s - walk.points[leg].t_s;
}

bool isLeg(const Walk& walk, std::size_t leg)
{
    return leg + 1 < walk.points.size();
}

bool isStay(const Walk& walk, std::size_t leg)
{
    return isLeg(walk, leg) && legLength_m(walk, leg) < samePlace_m;
}

/// A time of the walk after a stretch of it has been given another length: on it in proportion, behind it as much later.
double moved(double t_s, double from_s, double length_s, double next_s)
{
    if (t_s <= from_s) {
        return t_s;
    }
    return t_s < from_s + length_s ? from_s + (t_s - from_s) * next_s / length_s : t_s + next_s - length_s;
}

void setLegTime(Walk& walk, std::size_t leg, double seconds)
{
    const double from_s = walk.points[leg].t_s;
    const double length_s = legTime_s(walk, leg);
    const double next_s = std::max(toMillisecond(seconds), least_s);
    for (std::size_t i = leg + 1; i < walk.points.size(); ++i) {
        walk.points[i].t_s = toMillisecond(walk.points[i].t_s + next_s - length_s);
    }
    for (WalkEvent& event : walk.events) {
        event.t_s = toMillisecond(moved(event.t_s, from_s, length_s, next_s));
    }
}

/// The first and last of the points that are in the place of one.
std::pair<std::size_t, std::size_t> stayRound(const Walk& walk, std::size_t point)
{
    std::size_t first = point;
    std::size_t last = point;
    while (first > 0 && isStay(walk, first - 1)) {
        --first;
    }
    while (isStay(walk, last)) {
        ++last;
    }
    return {first, last};
}

} // namespace

Walk walkThrough(const std::vector<Vec3>& places, double speed_m_s)
{
    Walk walk;
    for (const Vec3& place : places) {
        if (walk.points.empty()) {
            walk.points.push_back({.t_s = 0.0, .at = place, .heading_deg = {}});
        } else if (glm::length(place - walk.points.back().at) >= samePlace_m) {
            walk = withPointAfter(std::move(walk), place, speed_m_s);
        }
    }
    return walk;
}

double legSpeed_m_s(const Walk& walk, std::size_t leg)
{
    return isLeg(walk, leg) && !isStay(walk, leg) && legTime_s(walk, leg) > 0.0 ? legLength_m(walk, leg) / legTime_s(walk, leg)
                                                                                : 0.0;
}

Walk withLegTime(Walk walk, std::size_t leg, double seconds)
{
    if (isLeg(walk, leg)) {
        setLegTime(walk, leg, seconds);
    }
    return walk;
}

Walk withLegSpeed(Walk walk, std::size_t leg, double speed_m_s)
{
    if (isLeg(walk, leg) && !isStay(walk, leg)) {
        setLegTime(walk, leg, legLength_m(walk, leg) / speed_m_s);
    }
    return walk;
}

Walk withSpeed(Walk walk, double speed_m_s)
{
    for (std::size_t leg = 0; isLeg(walk, leg); ++leg) {
        walk = withLegSpeed(std::move(walk), leg, speed_m_s);
    }
    return walk;
}

double stay_s(const Walk& walk, std::size_t point)
{
    if (point >= walk.points.size()) {
        return 0.0;
    }
    const auto [first, last] = stayRound(walk, point);
    return walk.points[last].t_s - walk.points[first].t_s;
}

Walk withStay(Walk walk, std::size_t point, double seconds)
{
    if (point >= walk.points.size()) {
        return walk;
    }
    const auto [first, last] = stayRound(walk, point);
    if (seconds < least_s) {
        while (isStay(walk, first)) {
            const double length_s = legTime_s(walk, first);
            const double from_s = walk.points[first].t_s;
            walk.points.erase(walk.points.begin() + static_cast<std::ptrdiff_t>(first) + 1);
            for (std::size_t i = first + 1; i < walk.points.size(); ++i) {
                walk.points[i].t_s = toMillisecond(walk.points[i].t_s - length_s);
            }
            for (WalkEvent& event : walk.events) {
                event.t_s = toMillisecond(moved(event.t_s, from_s, length_s, 0.0));
            }
        }
        return walk;
    }
    if (first == last) {
        // The second point comes at the end of the stay: what is later is later by it.
        WalkPoint second = walk.points[first];
        const double from_s = second.t_s;
        walk.points.insert(walk.points.begin() + static_cast<std::ptrdiff_t>(first) + 1, second);
        for (std::size_t i = first + 1; i < walk.points.size(); ++i) {
            walk.points[i].t_s = toMillisecond(walk.points[i].t_s + seconds);
        }
        for (WalkEvent& event : walk.events) {
            event.t_s = event.t_s > from_s ? toMillisecond(event.t_s + seconds) : event.t_s;
        }
        return walk;
    }
    // Of several points in one place the last pause takes what is left.
    const double before_s = walk.points[last - 1].t_s - walk.points[first].t_s;
    setLegTime(walk, last - 1, seconds - before_s);
    return walk;
}

Walk withPointAt(Walk walk, std::size_t point, const Vec3& at)
{
    if (point >= walk.points.size()) {
        return walk;
    }
    const auto [first, last] = stayRound(walk, point);
    const double before_m_s = first > 0 ? legSpeed_m_s(walk, first - 1) : 0.0;
    const double after_m_s = legSpeed_m_s(walk, last);
    for (std::size_t i = first; i <= last; ++i) {
        walk.points[i].at = at;
    }
    if (before_m_s > 0.0) {
        walk = withLegSpeed(std::move(walk), first - 1, before_m_s);
    }
    return after_m_s > 0.0 ? withLegSpeed(std::move(walk), last, after_m_s) : walk;
}

Walk withPointOn(Walk walk, std::size_t leg, const Vec3& at)
{
    if (!isLeg(walk, leg)) {
        return walk;
    }
    const double speed_m_s = legSpeed_m_s(walk, leg);
    const WalkPoint& a = walk.points[leg];
    const WalkPoint& b = walk.points[leg + 1];
    const double to_m = glm::length(at - a.at);
    const double on_m = glm::length(b.at - at);
    const double share = to_m + on_m > 0.0 ? to_m / (to_m + on_m) : 0.5;
    const double t_s = toMillisecond(a.t_s + share * legTime_s(walk, leg));
    if (speed_m_s <= 0.0 || t_s < a.t_s + least_s || t_s > b.t_s - least_s) {
        return walk;
    }
    WalkPoint between{.t_s = t_s, .at = at, .heading_deg = {}};
    if (a.heading_deg && b.heading_deg) {
        between.heading_deg = wrapDegrees(*a.heading_deg + wrapDegrees(*b.heading_deg - *a.heading_deg) * share);
        between.pitch_deg = a.pitch_deg + (b.pitch_deg - a.pitch_deg) * share;
    }
    walk.points.insert(walk.points.begin() + static_cast<std::ptrdiff_t>(leg) + 1, between);
    walk = withLegSpeed(std::move(walk), leg, speed_m_s);
    return withLegSpeed(std::move(walk), leg + 1, speed_m_s);
}

Walk withoutPoint(Walk walk, std::size_t point)
{
    if (point >= walk.points.size()) {
        return walk;
    }
    const auto [first, last] = stayRound(walk, point);
    const double from_s = walk.points[first].t_s;
    const auto at = walk.points.begin();
    walk.points.erase(at + static_cast<std::ptrdiff_t>(first), at + static_cast<std::ptrdiff_t>(last) + 1);
    if (first == 0 && !walk.points.empty()) {
        // The walk begins with what was the second point, and its clock with it.
        const double earlier_s = walk.points.front().t_s - from_s;
        for (WalkPoint& p : walk.points) {
            p.t_s = toMillisecond(p.t_s - earlier_s);
        }
        for (WalkEvent& event : walk.events) {
            event.t_s = std::max(toMillisecond(event.t_s - earlier_s), 0.0);
        }
    }
    return walk;
}

Walk withPointAfter(Walk walk, const Vec3& at, double speed_m_s)
{
    if (walk.points.empty()) {
        walk.points.push_back({.t_s = 0.0, .at = at, .heading_deg = {}});
        return walk;
    }
    for (std::size_t leg = walk.points.size() - 1; leg-- > 0;) {
        if (const double last_m_s = legSpeed_m_s(walk, leg); last_m_s > 0.0) {
            speed_m_s = last_m_s;
            break;
        }
    }
    const WalkPoint& end = walk.points.back();
    const double length_m = glm::length(at - end.at);
    const double t_s = toMillisecond(end.t_s + std::max(length_m / speed_m_s, least_s));
    walk.points.push_back({.t_s = t_s, .at = at, .heading_deg = {}});
    return walk;
}

Walk turnedRound(Walk walk)
{
    const double first_s = walk.points.empty() ? 0.0 : walk.points.front().t_s;
    const double whole_s = first_s + walk.seconds();
    std::reverse(walk.points.begin(), walk.points.end());
    for (WalkPoint& point : walk.points) {
        point.t_s = toMillisecond(whole_s - point.t_s);
    }
    for (WalkEvent& event : walk.events) {
        event.t_s = std::max(toMillisecond(whole_s - event.t_s), 0.0);
    }
    std::stable_sort(walk.events.begin(), walk.events.end(),
                     [](const WalkEvent& a, const WalkEvent& b) { return a.t_s < b.t_s; });
    return walk;
}

Walk withEyesOn(Walk walk, const Vec3& place, double eyesHeight_m, std::optional<std::size_t> leg)
{
    constexpr double apart_deg = 1.5;
    constexpr double leastLeg_s = 0.05;
    const auto look = [&](WalkPoint& point) {
        const Vec3 way = place - (point.at + Vec3{0.0, 0.0, eyesHeight_m});
        const double level_m = std::hypot(way.x, way.y);
        if (level_m > 0.0) {
            point.heading_deg = headingAlong(way);
        }
        point.pitch_deg = degrees(std::atan2(way.z, level_m));
    };
    const auto between = [](const WalkPoint& a, const WalkPoint& b, double share) {
        WalkPoint point = a;
        point.t_s = toMillisecond(a.t_s + share * (b.t_s - a.t_s));
        point.at = a.at + share * (b.at - a.at);
        return point;
    };
    std::vector<WalkPoint> points;
    // By how much one who turns evenly from one point to another looks past it at most, degrees.
    const auto past_deg = [&](const WalkPoint& a, const WalkPoint& b) {
        const double turn = wrapDegrees(b.heading_deg.value_or(0.0) - a.heading_deg.value_or(0.0));
        double most = 0.0;
        for (const double share : {0.25, 0.5, 0.75}) {
            WalkPoint point = between(a, b, share);
            look(point);
            const double heading = a.heading_deg.value_or(0.0) + share * turn;
            const double pitch = a.pitch_deg + share * (b.pitch_deg - a.pitch_deg);
            most = std::max({most, std::abs(wrapDegrees(point.heading_deg.value_or(heading) - heading)),
                             std::abs(point.pitch_deg - pitch)});
        }
        return most;
    };
    const std::function<void(const WalkPoint&, const WalkPoint&)> add = [&](const WalkPoint& a, const WalkPoint& b) {
        if (b.t_s - a.t_s > 2.0 * leastLeg_s && past_deg(a, b) > apart_deg) {
            WalkPoint middle = between(a, b, 0.5);
            look(middle);
            add(a, middle);
            points.push_back(middle);
            add(middle, b);
        }
    };
    for (std::size_t i = 0; i < walk.points.size(); ++i) {
        WalkPoint point = walk.points[i];
        const bool on = !leg || i == *leg || i == *leg + 1;
        if (on) {
            look(point);
        }
        if (i > 0 && (!leg || i == *leg + 1)) {
            const WalkPoint before = points.back(); // which moves as points are added
            add(before, point);
        }
        points.push_back(point);
    }
    walk.points = std::move(points);
    return walk;
}

std::vector<WalkPoint> simplified(const std::vector<WalkPoint>& recorded, double off_m, double off_deg)
{
    std::vector<WalkPoint> kept;
    if (recorded.empty()) {
        return kept;
    }
    /// Whether a straight leg from one point to another passes close enough to all between.
    const auto straight = [&](std::size_t from, std::size_t to) {
        const WalkPoint& a = recorded[from];
        const WalkPoint& b = recorded[to];
        for (std::size_t i = from + 1; i < to; ++i) {
            const WalkPoint& p = recorded[i];
            const double share = b.t_s > a.t_s ? (p.t_s - a.t_s) / (b.t_s - a.t_s) : 0.0;
            const double turn = wrapDegrees(b.heading_deg.value_or(0.0) - a.heading_deg.value_or(0.0));
            const double heading = a.heading_deg.value_or(0.0) + turn * share;
            const double pitch = a.pitch_deg + (b.pitch_deg - a.pitch_deg) * share;
            if (glm::length(a.at + (b.at - a.at) * share - p.at) > off_m ||
                std::abs(wrapDegrees(p.heading_deg.value_or(0.0) - heading)) > off_deg ||
                std::abs(p.pitch_deg - pitch) > off_deg) {
                return false;
            }
        }
        return true;
    };
    kept.push_back(recorded.front());
    for (std::size_t from = 0; from + 1 < recorded.size();) {
        // Twice as far each time while it holds, then the furthest in between: a long straight leg is not looked through again
        // for each of its moments.
        std::size_t holds = from + 1;
        std::size_t stride = 1;
        while (holds + stride < recorded.size() && straight(from, holds + stride)) {
            holds += stride;
            stride *= 2;
        }
        for (; stride > 0; stride /= 2) {
            if (holds + stride < recorded.size() && straight(from, holds + stride)) {
                holds += stride;
            }
        }
        kept.push_back(recorded[holds]);
        from = holds;
    }
    return kept;
}

std::vector<WalkPoint> recordedPoints(const std::vector<WalkPoint>& recorded)
{
    constexpr double off_m = 0.005;
    constexpr double off_deg = 0.5;
    // Written as short as it is exact: a document full of digits reads badly.
    const auto rounded = [](double number, double steps) { return std::round(number * steps) / steps; };
    std::vector<WalkPoint> points = simplified(recorded, off_m, off_deg);
    for (WalkPoint& point : points) {
        point.t_s = rounded(point.t_s, 1000.0);
        point.at = {rounded(point.at.x, 1000.0), rounded(point.at.y, 1000.0), rounded(point.at.z, 1000.0)};
        point.heading_deg = rounded(point.heading_deg.value_or(0.0), 10.0);
        point.pitch_deg = rounded(point.pitch_deg, 10.0);
    }
    return points;
}

} // namespace stone
