// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/curve.h"

namespace stone
{

/// At and below this value a level lane means silence: lanes are drawn in a strip that has to end somewhere, and 96 dB
/// down is under the noise of a 16-bit recording.
constexpr double laneSilent_db = -96.0;

/// Cut-offs at which a filter lets everything through.
constexpr double openLowPass_hz = 20'000.0;
constexpr double openHighPass_hz = 20.0;

/// What the lanes of an emitter come to at one moment. Several lanes on one property: levels, sends and priorities add,
/// placements and nearness multiply, of two filters the stricter counts, of two spreads the wider.
struct LaneValues {
    double level_db = 0.0; ///< minus infinity: silent
    double lowPass_hz = openLowPass_hz;
    double highPass_hz = openHighPass_hz;
    double spread_deg = 0.0;
    double placement = 1.0; ///< share in the world
    double send_db = 0.0;   ///< to the reverb of the space
    double nearness = 1.0;  ///< factor on the distance
    double priority = 0.0;  ///< grades

    void add(LaneProperty property, double value);
};

/// A lane's value where what it follows is at x, in the unit of its property: dB, Hz, degrees, share. Formulas give the
/// end of reach its part as well. A level may be minus infinity. Switched off, it has the value without effect.
double laneAt(const Lane& lane, double x);

/// The value that changes nothing.
double neutralOf(LaneProperty property);

CurveScale scaleOf(LaneProperty property);

/// From this distance on a level lane is silent for good; infinity when it never is. Only for lanes over distance.
double silentFrom_m(const Lane& lane);

/// Up to here a level lane over distance keeps its largest value, to within half a decibel.
double fullUpTo_m(const Lane& lane);

/// The largest distance at which a level lane over distance is still above `level_db`; infinity when there is no such.
double lastAbove_m(const Lane& lane, double level_db);

/// The level that an emitter's lanes over the angle off its front give at an angle, dB; 0 when it has none.
double lobe_db(const std::vector<Lane>& lanes, double off_deg);
/// Whether it has any that are switched on.
bool hasLobe(const std::vector<Lane>& lanes);

/// The highest value of a level lane, anywhere.
double highest_db(const Lane& lane);

} // namespace stone
