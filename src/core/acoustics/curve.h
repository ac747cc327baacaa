// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

namespace stone
{

/// In which measure a curve is drawn: a cut-off goes evenly in octaves, everything else in its own unit.
enum class CurveScale { even, octaves };

/// The value of a curve at x. Before the first point and after the last it stays; an empty curve is `empty` throughout.
/// With t from 0 to 1 between two control points:
///
/// - straight: t;  slowStart: t^2;  slowEnd: 1 - (1 - t)^2;  hold: the first point's value up to the next point
/// - smooth: the cubic of Fritsch & Carlson (1980) with the slopes of Fritsch & Butland (1984): at a control point the
///   harmonic mean of the slopes to both sides, 0 where the curve turns. It runs monotonically between monotone points
///   and never beyond the values of its two ends.
///
/// Of two points at one x the later counts from there on.
double curveAt(const Curve& curve, double x, CurveScale scale, double empty);

/// Puts a point where it belongs in order of x; says where that is.
std::size_t insertPoint(Curve& curve, const CurvePoint& point);

} // namespace stone
