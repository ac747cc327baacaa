#pragma once

#include "geometry/vec.h"

#include <QPointF>
#include <QRectF>
#include <QSizeF>

#include <algorithm>

namespace stone
{

/// How metres of the level lie on the Plan's pixels. North is up.
struct PlanCamera {
    Vec2 centre{0.0}; ///< of the view, metres
    double pixelsPerMetre = 10.0;
    QSizeF view{100, 100};

    static constexpr double least = 0.05;
    static constexpr double most = 400.0;

    QPointF toScreen(const Vec2& p) const
    {
        return {view.width() / 2.0 + (p.x - centre.x) * pixelsPerMetre,
                view.height() / 2.0 - (p.y - centre.y) * pixelsPerMetre};
    }
    QPointF toScreen(const Vec3& p) const { return toScreen(Vec2{p.x, p.y}); }
    Vec2 toLevel(const QPointF& s) const
    {
        return {centre.x + (s.x() - view.width() / 2.0) / pixelsPerMetre,
                centre.y - (s.y() - view.height() / 2.0) / pixelsPerMetre};
    }

    /// Zooms by a factor; what is under `at` stays there.
    void zoom(double factor, const QPointF& at)
    {
        const Vec2 held = toLevel(at);
        pixelsPerMetre = std::min(std::max(pixelsPerMetre * factor, least), most);
        const Vec2 now = toLevel(at);
        centre += held - now;
    }

    /// Shows a rectangle of the level whole, with a margin in pixels.
    void fit(const Vec2& low, const Vec2& high, double margin)
    {
        centre = (low + high) / 2.0;
        const Vec2 size = high - low;
        const double x = (view.width() - 2 * margin) / std::max(size.x, 0.1);
        const double y = (view.height() - 2 * margin) / std::max(size.y, 0.1);
        pixelsPerMetre = std::min(std::max(std::min(x, y), least), most);
    }

    bool operator==(const PlanCamera&) const = default;
};

} // namespace stone
