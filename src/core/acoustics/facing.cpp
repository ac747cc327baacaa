// SPDX-License-Identifier: MPL-2.0
#include "acoustics/facing.h"

#include "dsp/decibel.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// 0 inside, 1 behind, linear in the angle between.
double behindShare(const TwoAngles& angles, double off_deg)
{
    const double inner = angles.inner_deg / 2.0;
    const double outer = angles.outer_deg / 2.0;
    if (off_deg <= inner) {
        return 0.0;
    }
    return off_deg >= outer ? 1.0 : (off_deg - inner) / (outer - inner);
}

} // namespace

double offFront_deg(double heading_deg, double tilt_deg, const Vec3& emitter, const Vec3& ears)
{
    const Vec3 way = ears - emitter;
    const double length = glm::length(way);
    if (length == 0.0) {
        return 0.0;
    }
    const Vec3 front = aheadOf(heading_deg, tilt_deg);
    return degrees(std::acos(std::clamp(glm::dot(front, way) / length, -1.0, 1.0)));
}

double coneLevel_db(const TwoAngles& angles, double off_deg)
{
    const double share = behindShare(angles, off_deg);
    return levelOf(gainOf(angles.inside) * (1.0 - share) + gainOf(angles.behind) * share);
}

double twoAngleValue(const TwoAngles& angles, double off_deg, CurveScale scale)
{
    const double share = behindShare(angles, off_deg);
    if (scale == CurveScale::octaves) {
        return std::exp2(std::log2(angles.inside) * (1.0 - share) + std::log2(angles.behind) * share);
    }
    return angles.inside * (1.0 - share) + angles.behind * share;
}

} // namespace stone
