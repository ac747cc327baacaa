// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/upright_sheet.h"

#include <QPointF>
#include <QRectF>
#include <QSizeF>

#include <algorithm>
#include <optional>

namespace stone
{

/// How metres of the level lie on the Plan's pixels. North is up; on the upright sheet of a side-on level, up is. A place of
/// the sheet is what can be seen of a place of the level: east and north, or along the sheet and up.
struct PlanCamera {
    Vec2 centre{0.0}; ///< of the view, on the sheet
    double pixelsPerMetre = 10.0;
    QSizeF view{100, 100};
    std::optional<Looking> upright; ///< which way one looks at an upright sheet

    static constexpr double least = 0.05;
    static constexpr double most = 400.0;

    QPointF toScreen(const Vec2& p) const
    {
        return {view.width() / 2.0 + (p.x - centre.x) * pixelsPerMetre,
                view.height() / 2.0 - (p.y - centre.y) * pixelsPerMetre};
    }
    QPointF toScreen(const Vec3& p) const { return toScreen(toSheet(p)); }
    Vec2 toSheet(const Vec3& p) const { return upright ? onSheet(*upright, p) : Vec2{p.x, p.y}; }
    /// A way on the sheet as a way in the level.
    Vec3 wayOf(const Vec2& way) const { return upright ? fromSheet(*upright, way) : Vec3{way, 0.0}; }
    /// Another place of the sheet, as far off it as a place of the level is.
    Vec3 placed(const Vec2& place, const Vec3& as) const { return as + wayOf(place - toSheet(as)); }
    /// How far a place is off the sheet: its height, or how far it is across.
    double off(const Vec3& p) const { return upright ? across(*upright, p) : p.z; }
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
