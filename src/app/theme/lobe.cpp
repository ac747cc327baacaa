// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/theme/lobe.h"

#include "acoustics/facing.h"
#include "acoustics/lane.h"

#include <algorithm>
#include <cmath>

namespace stone::theme
{

QPainterPath lobe(const Emitter& emitter, const QPointF& centre, double radius)
{
    constexpr double depth_db = 30.0;
    constexpr double least = 0.03;
    QPainterPath path;
    for (int i = 0; i <= 180; ++i) {
        const double off = radians(2.0 * i);
        const double angle = offFront_deg(0.0, emitter.tilt_deg, Vec3{0.0}, Vec3{std::sin(off), std::cos(off), 0.0});
        const double share = std::clamp(1.0 + lobe_db(emitter.lanes, angle) / depth_db, least, 1.0);
        const double a = off + radians(emitter.heading_deg);
        const QPointF at = centre + QPointF(std::sin(a), -std::cos(a)) * radius * share;
        i == 0 ? path.moveTo(at) : path.lineTo(at);
    }
    return path;
}

} // namespace stone::theme
