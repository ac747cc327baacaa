// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPointF>
#include <QPolygonF>

#include <algorithm>
#include <cmath>

namespace stone
{

inline double distanceBetween(const QPointF& a, const QPointF& b)
{
    return std::hypot(a.x() - b.x(), a.y() - b.y());
}

/// How far a place is from a stretch between two, in the unit of all three.
inline double distanceToLine(const QPointF& a, const QPointF& b, const QPointF& at)
{
    const QPointF way = b - a;
    const double length2 = QPointF::dotProduct(way, way);
    const double t = length2 > 0.0 ? std::clamp(QPointF::dotProduct(at - a, way) / length2, 0.0, 1.0) : 0.0;
    const QPointF off = at - (a + way * t);
    return std::hypot(off.x(), off.y());
}

/// The same from a closed outline; infinite where it has no points.
inline double distanceToOutline(const QPolygonF& outline, const QPointF& at)
{
    double least = INFINITY;
    for (int i = 0; i < outline.size(); ++i) {
        least = std::min(least, distanceToLine(outline[i], outline[(i + 1) % outline.size()], at));
    }
    return least;
}

} // namespace stone
