// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes/lane_scale.h"

#include "acoustics/distance.h"
#include "app/theme/theme.h"
#include "hearing/reasons.h"

#include <QObject>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace lanes
{

Stretch valuesOf(const Lane& lane)
{
    switch (lane.property) {
    case LaneProperty::level:
    case LaneProperty::send: return {bottom_db, std::max(5.0, std::ceil(highest_db(lane) / 6.0) * 6.0 + 3.0)};
    case LaneProperty::lowPass: return {50.0, 30'000.0};
    case LaneProperty::highPass: return {18.0, 8000.0};
    case LaneProperty::spread: return {0.0, 370.0};
    case LaneProperty::placement: return {0.0, 1.05};
    case LaneProperty::nearness: return {0.0, 4.0};
    case LaneProperty::priority: return {-3.2, 3.2};
    case LaneProperty::interval: return {0.0, 2.1};
    case LaneProperty::pitch: return {-25.0, 25.0};
    }
    return {0.0, 1.0};
}

bool isLogarithmic(LaneProperty property)
{
    return scaleOf(property) == CurveScale::octaves;
}

double onStrip(const Lane& lane, double value)
{
    const Stretch values = valuesOf(lane);
    return std::clamp(value, values.from, values.to);
}

double rulerFor(double most)
{
    const double wanted = std::max(most * 1.12, 1.0);
    const double power = std::pow(10.0, std::floor(std::log10(wanted)));
    for (const double step : {1.0, 1.2, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0}) {
        if (step * power >= wanted) {
            return step * power;
        }
    }
    return 10.0 * power;
}

Stretch inputOf(const Lane& lane)
{
    switch (lane.over) {
    case LaneInput::offFront:
    case LaneInput::gaze: return {0.0, 180.0};
    case LaneInput::direction: return {-180.0, 180.0};
    case LaneInput::speed: return {0.0, rulerFor(lane.curve.empty() ? 8.0 : std::max(lane.curve.back().x, 8.0))};
    case LaneInput::time: return {0.0, rulerFor(lane.curve.empty() ? 2.0 : std::max(lane.curve.back().x, 0.1))};
    case LaneInput::depth: return {0.0, rulerFor(lane.curve.empty() ? 10.0 : std::max(lane.curve.back().x, 1.0))};
    case LaneInput::gameValue:
        return lane.curve.empty() ? Stretch{0.0, 1.0}
                                  : Stretch{std::min(lane.curve.front().x, 0.0), std::max(lane.curve.back().x, 1.0)};
    case LaneInput::distance: break;
    }
    double end = lane.curve.empty() ? 1.0 : lane.curve.back().x;
    if (lane.shape == LaneShape::formula) {
        end = std::max(std::min(silentOrFaint_m(lane), 2000.0), fullUpTo_m(lane.formula));
    }
    return {0.0, rulerFor(end)};
}

QString inputUnit(LaneInput input)
{
    switch (input) {
    case LaneInput::distance:
    case LaneInput::depth: return "m";
    case LaneInput::gameValue: return {};
    case LaneInput::speed: return "m/s";
    case LaneInput::time: return "s";
    default: return QStringLiteral("°");
    }
}

QString propertyUnit(LaneProperty property)
{
    switch (property) {
    case LaneProperty::level:
    case LaneProperty::send: return "dB";
    case LaneProperty::lowPass:
    case LaneProperty::highPass: return "Hz";
    case LaneProperty::spread: return QStringLiteral("°");
    case LaneProperty::placement:
    case LaneProperty::nearness: return "";
    case LaneProperty::priority: return QObject::tr("grades");
    case LaneProperty::interval: return "s";
    case LaneProperty::pitch: return "st";
    }
    return {};
}

QString inputText(LaneInput input, double x)
{
    switch (input) {
    case LaneInput::distance:
    case LaneInput::depth: return theme::metres(x);
    case LaneInput::gameValue: return theme::signedNumber(x, 2);
    case LaneInput::speed: return QObject::tr("%1 m/s").arg(x, 0, 'f', 1);
    case LaneInput::time: return QObject::tr("%1 s").arg(x, 0, 'f', 2);
    case LaneInput::offFront:
    case LaneInput::gaze:
    case LaneInput::direction: return QString("%1°").arg(theme::signedNumber(x, 0));
    }
    return {};
}

QString valueText(LaneProperty property, double value)
{
    return QString::fromStdString(stone::valueText(property, value)).replace('-', QChar(0x2212));
}

QString name(LaneProperty property)
{
    return QString::fromUtf8(propertyName(property));
}

QColor colourOf(LaneProperty property)
{
    switch (property) {
    case LaneProperty::level: return theme::ochre;
    case LaneProperty::lowPass: return theme::lapis;
    case LaneProperty::highPass: return theme::mallow;
    case LaneProperty::spread: return theme::verdigris;
    case LaneProperty::placement: return theme::soft;
    case LaneProperty::nearness: return theme::verdigris;
    case LaneProperty::priority:
    case LaneProperty::pitch: return theme::mallow;
    case LaneProperty::interval: return theme::rust;
    case LaneProperty::send: return theme::cinnabar;
    }
    return theme::ink;
}

} // namespace lanes

namespace
{

/// A full level ends so much before silence at the latest.
constexpr double fullBeforeSilent = 0.8;
constexpr double nearest_m = 0.05;

double rounded(double value, double step)
{
    return std::round(value / step) * step;
}

/// A dragged value as one would type it.
double tidy(LaneProperty property, double value)
{
    switch (property) {
    case LaneProperty::level:
    case LaneProperty::send: return value <= lanes::bottom_db + 0.5 ? laneSilent_db : rounded(value, 0.1);
    case LaneProperty::lowPass: return value >= 0.97 * openLowPass_hz ? openLowPass_hz : rounded(std::max(value, 50.0), 10.0);
    case LaneProperty::highPass: return std::max(rounded(value, 5.0), openHighPass_hz);
    case LaneProperty::spread: return std::clamp(rounded(value, 1.0), 0.0, 360.0);
    case LaneProperty::placement: return std::clamp(rounded(value, 0.01), 0.0, 1.0);
    case LaneProperty::nearness: return std::clamp(rounded(value, 0.01), 0.05, 10.0);
    case LaneProperty::priority: return std::clamp(rounded(value, 0.1), -3.0, 3.0);
    case LaneProperty::interval: return std::clamp(rounded(value, 0.01), 0.02, 10.0);
    case LaneProperty::pitch: return std::clamp(rounded(value, 0.5), -48.0, 48.0);
    }
    return value;
}

Lane withFormulaHandleAt(Lane lane, std::size_t handle, double x)
{
    const double d = rounded(std::clamp(x, 0.0, 1e5), 0.01);
    if (handle == 0) {
        const double silent = silentFrom_m(lane.formula);
        const double most = std::isfinite(silent) ? silent * fullBeforeSilent : 1e5;
        lane.formula.reference_m = std::clamp(d, nearest_m, std::max(most, nearest_m));
    } else {
        const double least = std::max(fullUpTo_m(lane.formula), nearest_m) / fullBeforeSilent;
        lane.formula = withSilentAt(lane.formula, std::max(d, least));
    }
    return lane;
}

} // namespace

DistanceFormula withSilentAt(DistanceFormula formula, double distance_m)
{
    if (formula.model == DistanceModel::linear && formula.factor >= 1.0) {
        formula.maximum_m = distance_m;
        formula.silentAt_m = formula.silentAt_m > 0.0 ? distance_m : 0.0;
    } else {
        formula.silentAt_m = distance_m;
    }
    return formula;
}

Lane withRingAt(Lane lane, bool full, double distance_m)
{
    if (lane.shape == LaneShape::formula) {
        return withFormulaHandleAt(std::move(lane), full ? 0 : 1, distance_m);
    }
    // Stretch the ruler so that the ring lands there; the other ring keeps its place.
    const double fixed = full ? silentOrFaint_m(lane) : fullUpTo_m(lane);
    const double before = full ? fullUpTo_m(lane) : silentOrFaint_m(lane);
    if (!std::isfinite(fixed) || !std::isfinite(before) || std::abs(before - fixed) < nearest_m) {
        return lane;
    }
    const double to =
        full ? std::clamp(distance_m, nearest_m, fixed * fullBeforeSilent) : std::max(distance_m, fixed / fullBeforeSilent);
    for (CurvePoint& point : lane.curve) {
        const bool between = full ? point.x < fixed : point.x > fixed;
        if (between) {
            point.x = std::max(rounded(fixed + (point.x - fixed) * (to - fixed) / (before - fixed), 0.01), 0.0);
        }
    }
    return lane;
}

double silentOrFaint_m(const Lane& lane)
{
    const double silent = silentFrom_m(lane);
    return std::isfinite(silent) ? silent : lastAbove_m(lane, lanes::bottom_db);
}

std::vector<LaneHandle> handlesOf(const Lane& lane)
{
    std::vector<LaneHandle> handles;
    switch (lane.shape) {
    case LaneShape::formula: {
        const double full = fullUpTo_m(lane.formula);
        handles.push_back({full, laneAt(lane, full), false, QObject::tr("full level up to here: drag, or arrow keys")});
        handles.push_back(
            {silentOrFaint_m(lane), lanes::bottom_db, false, QObject::tr("silent from here on: drag, or arrow keys")});
        break;
    }
    case LaneShape::twoAngles:
        handles.push_back({lane.angles.inner_deg / 2.0, lane.angles.inside, true,
                           QObject::tr("as it is up to this angle: drag, or arrow keys")});
        handles.push_back({lane.angles.outer_deg / 2.0, lane.angles.behind, true,
                           QObject::tr("like this beyond this angle: drag, or arrow keys")});
        break;
    case LaneShape::curve:
        for (const CurvePoint& point : lane.curve) {
            handles.push_back({point.x, point.y, true, QObject::tr("control point: drag, or arrow keys; Delete takes it out")});
        }
        break;
    }
    return handles;
}

Lane withHandleAt(Lane lane, std::size_t handle, double x, double y)
{
    const double value = tidy(lane.property, y);
    switch (lane.shape) {
    case LaneShape::formula: return withFormulaHandleAt(std::move(lane), handle, x);
    case LaneShape::twoAngles: {
        const double full_deg = std::clamp(rounded(2.0 * x, 1.0), 0.0, 360.0);
        if (handle == 0) {
            lane.angles.inner_deg = std::min(full_deg, lane.angles.outer_deg);
            lane.angles.inside = value;
        } else {
            lane.angles.outer_deg = std::max(full_deg, lane.angles.inner_deg);
            lane.angles.behind = value;
        }
        break;
    }
    case LaneShape::curve: {
        CurvePoint& point = lane.curve[handle];
        const lanes::Stretch input = lanes::inputOf(lane);
        const double least = handle > 0 ? lane.curve[handle - 1].x : input.from;
        const double most = handle + 1 < lane.curve.size()     ? lane.curve[handle + 1].x
                            : lane.over == LaneInput::distance ? 1e5
                            : lane.over == LaneInput::speed    ? 1000.0
                            : lane.over == LaneInput::time     ? 3600.0
                                                               : input.to;
        point.x = std::clamp(rounded(x, lane.over == LaneInput::distance || lane.over == LaneInput::time ? 0.01 : 0.1), least,
                             std::max(least, most));
        point.y = value;
        break;
    }
    }
    return lane;
}

QString handleText(const Lane& lane, std::size_t handle)
{
    switch (lane.shape) {
    case LaneShape::formula:
        return handle == 0 ? QObject::tr("full up to %1").arg(theme::metres(fullUpTo_m(lane.formula)))
                           : QObject::tr("silent at %1").arg(theme::metres(silentOrFaint_m(lane)));
    case LaneShape::twoAngles: {
        const double angle = (handle == 0 ? lane.angles.inner_deg : lane.angles.outer_deg) / 2.0;
        const double value = handle == 0 ? lane.angles.inside : lane.angles.behind;
        return QObject::tr("%1 at %2").arg(lanes::valueText(lane.property, value), lanes::inputText(lane.over, angle));
    }
    case LaneShape::curve:
        return QObject::tr("point %1: %2, %3")
            .arg(handle + 1)
            .arg(lanes::inputText(lane.over, lane.curve[handle].x), lanes::valueText(lane.property, lane.curve[handle].y));
    }
    return {};
}

} // namespace stone
