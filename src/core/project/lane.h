// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"

#include <map>
#include <string>
#include <vector>

namespace stone
{

/// Keys that this version does not know, kept as JSON text so that saving loses nothing.
using Extras = std::map<std::string, std::string>;

/// How a curve goes from one control point to the next.
enum class Segment { straight, smooth, slowStart, slowEnd, hold };

/// x in what the lane follows, y in the unit of its property. `segment` leads from here to the next point.
struct CurvePoint {
    double x = 0.0;
    double y = 0.0;
    Segment segment = Segment::straight;

    bool operator==(const CurvePoint&) const = default;
};

/// Control points in order of x; before the first and after the last the value stays. Two points at one x are a jump.
/// See acoustics/curve.h for what lies between.
using Curve = std::vector<CurvePoint>;

/// The distance models of the W3C Web Audio API (PannerNode).
enum class DistanceModel { inverse, linear, exponential };

/// Level over distance by a formula. See acoustics/distance.h for what it computes.
struct DistanceFormula {
    DistanceModel model = DistanceModel::inverse;
    double reference_m = 1.0;    ///< full level up to here; >= 0
    double maximum_m = 10'000.0; ///< where the linear model ends; the others do not use it; >= 0
    double factor = 1.0;         ///< steepness; >= 0
    double silentAt_m = 0.0;     ///< nothing is heard from here on, whatever the model; 0 = no such end; >= 0
    double staysFrom_m = 0.0;    ///< from here on the inverse and exponential models stay as they are; 0 = nowhere; >= 0

    bool operator==(const DistanceFormula&) const = default;
};

/// The classic two angles as a shape: `inside` up to half the inner angle off the front or the gaze, `behind` from half
/// the outer one on. Between them a level over the front goes linearly in pressure gain (W3C Web Audio API, "Sound
/// Cones"), anything else linearly in its unit.
struct TwoAngles {
    double inner_deg = 90.0;  ///< full opening angle; 0 to 360
    double outer_deg = 200.0; ///< full opening angle; 0 to 360
    double inside = 0.0;      ///< in the property's unit
    double behind = -12.0;    ///< in the property's unit

    bool operator==(const TwoAngles&) const = default;
};

/// What a lane may draw. Units and how several lanes on one property combine: see acoustics/lane.h.
enum class LaneProperty {
    level,
    lowPass,
    highPass,
    spread,
    placement,
    send,
    nearness, ///< a factor on the distance; only over the gaze
    priority, ///< grades by which it matters more; only over the gaze
    interval, ///< seconds from beat to beat of a pulse; only over distance
    pitch,    ///< semitones, decided as a beat of a pulse begins; only over distance
};

/// What a lane may follow.
enum class LaneInput {
    distance,  ///< metres from the ears to the emitter
    offFront,  ///< degrees between the emitter's front and the way to the ears, 0 to 180
    direction, ///< degrees round the ears on the horizon, -180 to 180, 0 ahead, positive to the right
    speed,     ///< metres per second between the ears and the emitter
    time,      ///< seconds since a piece of the sound began, on the sound's clock
    depth,     ///< metres that the ears are inside a zone, 0 outside
    gameValue, ///< a named number
    gaze,      ///< degrees between where somebody looks and the way to the emitter, 0 to 180
};

enum class LaneShape { formula, twoAngles, curve };

/// One property drawn over one thing that it follows. The shapes that are not in use keep their numbers, so that trying
/// another one loses nothing; so does a lane that is switched off.
struct Lane {
    LaneProperty property = LaneProperty::level;
    LaneInput over = LaneInput::distance;
    GameValueId value; ///< over a game value: which
    bool on = true;
    LaneShape shape = LaneShape::formula;
    DistanceFormula formula; ///< only for the level over distance
    TwoAngles angles;        ///< only over the angle off the front and off the gaze
    Curve curve;
    Extras extras{};

    bool operator==(const Lane&) const = default;
};

} // namespace stone
