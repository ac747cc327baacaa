// SPDX-License-Identifier: MPL-2.0
#include "acoustics/curve.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

double measure(double y, CurveScale scale)
{
    return scale == CurveScale::octaves ? std::log2(y) : y;
}

double unmeasure(double y, CurveScale scale)
{
    return scale == CurveScale::octaves ? std::exp2(y) : y;
}

double slope(const Curve& curve, std::size_t first, CurveScale scale)
{
    const double dx = curve[first + 1].x - curve[first].x;
    return dx > 0.0 ? (measure(curve[first + 1].y, scale) - measure(curve[first].y, scale)) / dx : 0.0;
}

/// The slope of a smooth curve at a control point.
double tangent(const Curve& curve, std::size_t at, CurveScale scale)
{
    if (at == 0 || at + 1 == curve.size()) {
        return 0.0;
    }
    const double before = slope(curve, at - 1, scale);
    const double after = slope(curve, at, scale);
    return before * after > 0.0 ? 2.0 * before * after / (before + after) : 0.0;
}

double smooth(const Curve& curve, std::size_t first, double t, CurveScale scale)
{
    const double dx = curve[first + 1].x - curve[first].x;
    const double a = measure(curve[first].y, scale);
    const double b = measure(curve[first + 1].y, scale);
    const double from = tangent(curve, first, scale) * dx;
    const double to = tangent(curve, first + 1, scale) * dx;
    const double t2 = t * t;
    const double t3 = t2 * t;
    return (2.0 * t3 - 3.0 * t2 + 1.0) * a + (t3 - 2.0 * t2 + t) * from + (3.0 * t2 - 2.0 * t3) * b + (t3 - t2) * to;
}

} // namespace

double curveAt(const Curve& curve, double x, CurveScale scale, double empty)
{
    if (curve.empty()) {
        return empty;
    }
    const auto above =
        std::upper_bound(curve.begin(), curve.end(), x, [](double value, const CurvePoint& point) { return value < point.x; });
    if (above == curve.begin()) {
        return curve.front().y;
    }
    if (above == curve.end()) {
        return curve.back().y;
    }
    const auto first = static_cast<std::size_t>(above - curve.begin()) - 1;
    const double t = (x - curve[first].x) / (curve[first + 1].x - curve[first].x);
    const double a = measure(curve[first].y, scale);
    const double b = measure(curve[first + 1].y, scale);
    switch (curve[first].segment) {
    case Segment::straight: return unmeasure(a + (b - a) * t, scale);
    case Segment::smooth: return unmeasure(smooth(curve, first, t, scale), scale);
    case Segment::slowStart: return unmeasure(a + (b - a) * t * t, scale);
    case Segment::slowEnd: return unmeasure(b - (b - a) * (1.0 - t) * (1.0 - t), scale);
    case Segment::hold: return curve[first].y;
    }
    return curve[first].y;
}

std::size_t insertPoint(Curve& curve, const CurvePoint& point)
{
    const auto place = std::upper_bound(curve.begin(), curve.end(), point.x,
                                        [](double value, const CurvePoint& other) { return value < other.x; });
    return static_cast<std::size_t>(curve.insert(place, point) - curve.begin());
}

} // namespace stone
