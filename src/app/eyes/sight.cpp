// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/eyes/sight.h"

#include <cmath>

namespace stone
{

Sight::Sight(const Pose& from, const QSizeF& size)
    : from_(from), frame_(frameOf(from)), size_(size), focal_px_(size.height() / 2.0 / std::tan(radians(tall_deg / 2.0)))
{
}

Vec3 Sight::local(const Vec3& place) const
{
    return frame_.seen(place - from_.at);
}

QPointF Sight::seen(const Vec3& local) const
{
    return {size_.width() / 2.0 + focal_px_ * local.x / local.y, size_.height() / 2.0 - focal_px_ * local.z / local.y};
}

QMatrix4x4 Sight::matrix() const
{
    QMatrix4x4 projection;
    projection.perspective(static_cast<float>(tall_deg), static_cast<float>(size_.width() / size_.height()),
                           static_cast<float>(near_m), static_cast<float>(far_m));
    const auto vector = [](const Vec3& v) {
        return QVector3D(static_cast<float>(v.x), static_cast<float>(v.y), static_cast<float>(v.z));
    };
    QMatrix4x4 view;
    view.lookAt(vector(from_.at), vector(from_.at + frame_.ahead), vector(frame_.up));
    return projection * view;
}

std::optional<QPointF> Sight::at(const Vec3& place) const
{
    const Vec3 here = local(place);
    return here.y > near_m ? std::optional(seen(here)) : std::nullopt;
}

double Sight::pixelsPerMetre(const Vec3& place) const
{
    const double ahead = local(place).y;
    return ahead > near_m ? focal_px_ / ahead : 0.0;
}

std::optional<std::pair<QPointF, QPointF>> Sight::line(Vec3 a, Vec3 b) const
{
    a = local(a);
    b = local(b);
    if (a.y <= near_m && b.y <= near_m) {
        return {};
    }
    const auto cut = [&](const Vec3& ahead, const Vec3& behind) {
        return behind + (ahead - behind) * ((near_m * 1.001 - behind.y) / (ahead.y - behind.y));
    };
    if (a.y <= near_m) {
        a = cut(b, a);
    } else if (b.y <= near_m) {
        b = cut(a, b);
    }
    return std::pair(seen(a), seen(b));
}

} // namespace stone
