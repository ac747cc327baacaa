// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "acoustics/lane.h"

#include <QColor>
#include <QString>

namespace stone
{

/// How a lane is laid out on paper: which stretch of what it follows, which values, in which unit and colour.
namespace lanes
{

struct Stretch {
    double from;
    double to;
};

/// Values at or below the lower end of the level's strip mean silence when a point is dragged there.
constexpr double bottom_db = -60.0;

/// The values that a strip shows.
Stretch valuesOf(const Lane& lane);
bool isLogarithmic(LaneProperty property);

/// A value brought onto its strip: what lies beyond is drawn at the edge.
double onStrip(const Lane& lane, double value);

/// The stretch of what is followed; for distances from 0 to a round number that has room for the lane's end.
Stretch inputOf(const Lane& lane);
/// The end of a ruler that has room for a number, itself a round one.
double rulerFor(double most);

QString inputUnit(LaneInput input);
QString propertyUnit(LaneProperty property);
/// "4.0 m", "35°", "1.4 m/s".
QString inputText(LaneInput input, double x);
QString valueText(LaneProperty property, double value);
QString name(LaneProperty property);
QColor colourOf(LaneProperty property);

} // namespace lanes

/// Something on a lane that can be taken hold of.
struct LaneHandle {
    double x;
    double y;
    bool upright; ///< can be moved up and down too
    QString help;
};

/// A formula has two (full, silent), two angles have two (inside, behind), a curve one for each point.
std::vector<LaneHandle> handlesOf(const Lane& lane);

/// The lane with one handle moved, as far as that makes sense: points keep their order, full stays before silent.
Lane withHandleAt(Lane lane, std::size_t handle, double x, double y);

/// What a handle says now: "full up to 4.0 m", "point 2: 12 m, -6 dB".
QString handleText(const Lane& lane, std::size_t handle);

/// A level lane with its ring of full level, or of silence, dragged to a distance: the formula's numbers, or for a curve
/// all its points beyond (or before) drawn along with it.
Lane withRingAt(Lane lane, bool full, double distance_m);

/// The formula with its silent end moved, whichever of its numbers that is.
DistanceFormula withSilentAt(DistanceFormula formula, double distance_m);
/// Where silence begins or, for a lane that never ends, where the level has fallen by 60 dB.
double silentOrFaint_m(const Lane& lane);

} // namespace stone
