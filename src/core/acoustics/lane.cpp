// SPDX-License-Identifier: MPL-2.0
#include "acoustics/lane.h"

#include "acoustics/distance.h"
#include "acoustics/facing.h"
#include "dsp/decibel.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// A curve counts as full while it is so close to its highest value.
constexpr double full_db = 0.5;

bool isCurve(const Lane& lane)
{
    return lane.shape == LaneShape::curve;
}

double silentToMinusInfinity(LaneProperty property, double value)
{
    return property == LaneProperty::level && value <= laneSilent_db ? silence_db : value;
}

/// The place between a (where `holds` is true) and b (where it is not) at which it changes.
template <class Holds> double border(double a, double b, Holds&& holds)
{
    while (std::abs(b - a) > 1e-4) {
        const double middle = (a + b) / 2.0;
        (holds(middle) ? a : b) = middle;
    }
    return b;
}

} // namespace

double neutralOf(LaneProperty property)
{
    switch (property) {
    case LaneProperty::level:
    case LaneProperty::send:
    case LaneProperty::priority:
    case LaneProperty::interval:
    case LaneProperty::pitch:
    case LaneProperty::spread: return 0.0;
    case LaneProperty::lowPass: return openLowPass_hz;
    case LaneProperty::highPass: return openHighPass_hz;
    case LaneProperty::placement:
    case LaneProperty::nearness: return 1.0;
    }
    return 0.0;
}

CurveScale scaleOf(LaneProperty property)
{
    const bool cutoff = property == LaneProperty::lowPass || property == LaneProperty::highPass;
    return cutoff ? CurveScale::octaves : CurveScale::even;
}

void LaneValues::add(LaneProperty property, double value)
{
    switch (property) {
    case LaneProperty::level: level_db += value; break;
    case LaneProperty::lowPass: lowPass_hz = std::min(lowPass_hz, value); break;
    case LaneProperty::highPass: highPass_hz = std::max(highPass_hz, value); break;
    case LaneProperty::spread: spread_deg = std::max(spread_deg, value); break;
    case LaneProperty::placement: placement *= value; break;
    case LaneProperty::send: send_db += value; break;
    case LaneProperty::nearness: nearness *= value; break;
    case LaneProperty::priority: priority += value; break;
    case LaneProperty::interval:
    case LaneProperty::pitch: break; // decided as a beat begins
    }
}

double laneAt(const Lane& lane, double x)
{
    if (!lane.on) {
        return neutralOf(lane.property);
    }
    switch (lane.shape) {
    case LaneShape::formula: return levelOf(distanceGain(lane.formula, x) * reachGain(lane.formula, x));
    case LaneShape::twoAngles: {
        const bool level = lane.property == LaneProperty::level || lane.property == LaneProperty::send;
        const bool gains = level && lane.over != LaneInput::gaze;
        return silentToMinusInfinity(lane.property, gains ? coneLevel_db(lane.angles, x)
                                                          : twoAngleValue(lane.angles, x, scaleOf(lane.property)));
    }
    case LaneShape::curve:
        return silentToMinusInfinity(lane.property, curveAt(lane.curve, x, scaleOf(lane.property), neutralOf(lane.property)));
    }
    return neutralOf(lane.property);
}

double silentFrom_m(const Lane& lane)
{
    if (!lane.on) {
        return boundless;
    }
    if (!isCurve(lane)) {
        return silentFrom_m(lane.formula);
    }
    if (lane.curve.empty() || lane.curve.back().y > laneSilent_db) {
        return boundless;
    }
    // The first of the points from which on all are silent.
    double from = lane.curve.back().x;
    for (auto point = lane.curve.rbegin(); point != lane.curve.rend() && point->y <= laneSilent_db; ++point) {
        from = point->x;
    }
    return std::max(from, 0.0);
}

double lobe_db(const std::vector<Lane>& lanes, double off_deg)
{
    double db = 0.0;
    for (const Lane& lane : lanes) {
        if (lane.on && lane.over == LaneInput::offFront && lane.property == LaneProperty::level) {
            db += laneAt(lane, off_deg);
        }
    }
    return db;
}

bool hasLobe(const std::vector<Lane>& lanes)
{
    return std::any_of(lanes.begin(), lanes.end(), [](const Lane& lane) {
        return lane.on && lane.over == LaneInput::offFront && lane.property == LaneProperty::level;
    });
}

double highest_db(const Lane& lane)
{
    if (!lane.on) {
        return 0.0;
    }
    if (lane.shape == LaneShape::twoAngles) {
        return std::max(lane.angles.inside, lane.angles.behind);
    }
    if (!isCurve(lane) || lane.curve.empty()) {
        return 0.0;
    }
    return std::max_element(lane.curve.begin(), lane.curve.end(),
                            [](const CurvePoint& a, const CurvePoint& b) { return a.y < b.y; })
        ->y;
}

double fullUpTo_m(const Lane& lane)
{
    if (!lane.on) {
        return boundless;
    }
    if (!isCurve(lane)) {
        return fullUpTo_m(lane.formula);
    }
    const double full = highest_db(lane) - full_db;
    const auto isFull = [&](double x) { return laneAt(lane, x) >= full; };
    for (std::size_t i = lane.curve.size(); i-- > 0;) {
        if (lane.curve[i].y >= full) {
            return i + 1 == lane.curve.size() ? boundless : border(lane.curve[i].x, lane.curve[i + 1].x, isFull);
        }
    }
    return 0.0;
}

double lastAbove_m(const Lane& lane, double level_db)
{
    if (!lane.on) {
        return level_db < 0.0 ? boundless : 0.0;
    }
    if (!isCurve(lane)) {
        return level_db < 0.0 ? distanceOfLevel_m(lane.formula, level_db) : 0.0;
    }
    const auto above = [&](double x) { return laneAt(lane, x) > level_db; };
    if (lane.curve.empty() || lane.curve.back().y > level_db) {
        return level_db < highest_db(lane) ? boundless : 0.0;
    }
    for (std::size_t i = lane.curve.size() - 1; i-- > 0;) {
        if (lane.curve[i].y > level_db) {
            return border(lane.curve[i].x, lane.curve[i + 1].x, above);
        }
    }
    return 0.0;
}

} // namespace stone
