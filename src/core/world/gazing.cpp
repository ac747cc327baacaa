// SPDX-License-Identifier: MPL-2.0
#include "world/gazing.h"

#include "acoustics/lane.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

template <class All, class One> bool has(const All& all, const One& one)
{
    return std::find(all.begin(), all.end(), one) != all.end();
}

double least(const Lane& lane)
{
    if (lane.shape == LaneShape::twoAngles) {
        return std::min(lane.angles.inside, lane.angles.behind);
    }
    double value = lane.curve.empty() ? 1.0 : lane.curve.front().y;
    for (const CurvePoint& point : lane.curve) {
        value = std::min(value, point.y);
    }
    return value;
}

} // namespace

bool isFor(const Gaze& gaze, const Emitter& emitter)
{
    if (has(gaze.exempt, emitter.id) || (!emitter.family.empty() && has(gaze.exemptFamilies, emitter.family))) {
        return false;
    }
    return (gaze.families.empty() && gaze.emitters.empty()) || has(gaze.emitters, emitter.id) ||
           (!emitter.family.empty() && has(gaze.families, emitter.family));
}

double angleBetween_deg(const Vec3& ahead, const Vec3& way)
{
    const double length = glm::length(way);
    return length > 0.0 ? degrees(std::atan2(glm::length(glm::cross(ahead, way)), glm::dot(ahead, way))) : 0.0;
}

double offGaze_deg(const Pose& gaze, const Vec3& place, bool horizontal)
{
    Vec3 way = place - gaze.at;
    if (horizontal) {
        way.z = 0.0;
    }
    // In the plane it is the heading, also of somebody who looks straight down.
    return angleBetween_deg(aheadOf(gaze.heading_deg, horizontal ? 0.0 : gaze.pitch_deg), way);
}

GazeMost mostOfGazes(const Project& project, const Emitter& emitter)
{
    GazeMost most;
    for (const auto& gaze : project.gazes) {
        if (!gaze->on || !isFor(*gaze, emitter)) {
            continue;
        }
        for (const Lane& lane : gaze->lanes) {
            if (lane.on && lane.property == LaneProperty::level) {
                most.level_db += std::max(highest_db(lane), 0.0);
            } else if (lane.on && lane.property == LaneProperty::nearness) {
                most.nearness *= std::min(least(lane), 1.0);
            }
        }
    }
    return most;
}

} // namespace stone
