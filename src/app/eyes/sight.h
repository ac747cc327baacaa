// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/pose.h"

#include <QMatrix4x4>
#include <QPointF>
#include <QSizeF>

#include <optional>
#include <utility>

namespace stone
{

/// How a level is seen from a pose on a picture of some size: a pinhole camera.
class Sight
{
public:
    static constexpr double near_m = 0.08;
    static constexpr double far_m = 2000.0;
    static constexpr double tall_deg = 60.0; ///< what the picture's height covers

    Sight(const Pose& from, const QSizeF& size);

    const Pose& from() const { return from_; }
    QMatrix4x4 matrix() const;
    /// Where a place is on the picture, in its pixels, wherever that is; nothing for what lies behind.
    std::optional<QPointF> at(const Vec3& place) const;
    /// How many pixels a metre takes at a place; 0 for what lies behind.
    double pixelsPerMetre(const Vec3& place) const;
    /// The part of a stretch that lies ahead, on the picture.
    std::optional<std::pair<QPointF, QPointF>> line(Vec3 a, Vec3 b) const;

private:
    Vec3 local(const Vec3& place) const;
    QPointF seen(const Vec3& local) const;

    Pose from_;
    Frame frame_;
    QSizeF size_;
    double focal_px_;
};

} // namespace stone
