// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/ground.h"
#include "project/document.h"

#include <functional>
#include <memory>
#include <vector>

namespace stone
{

/// What two rigs make of the same walk, emitter by emitter.
struct RigComparison {
    static constexpr double every_s = 0.25;
    /// Below this nobody hears it through either.
    static constexpr double floor_db = -70.0;

    struct Row {
        EmitterId emitter;
        std::vector<float> level_db;    ///< of the second rig less the first, every `every_s`; 0 where neither hears it
        std::vector<float> azimuth_deg; ///< the same for the direction at the ears, -180 to 180
        std::vector<bool> heard;        ///< through one of them at least
        double mostLevel_db = 0.0;      ///< with its sign
        double mostLevelAt_s = 0.0;
        double mostAzimuth_deg = 0.0;
        double mostAzimuthAt_s = 0.0;
    };
    std::vector<Row> rows; ///< what is heard at all, the greatest difference of level first
};

/// Goes through a walk twice. What one rig does not hear counts as floor_db. `progress` gets 0 to 1 and stops it by returning
/// false: then the result is empty. Takes about a hundredth of the walk's time.
RigComparison compareRigs(const Project& project, const LevelId& level, const std::shared_ptr<const Ground>& ground,
                          const Walk& walk, const RigId& first, const RigId& second,
                          const std::function<bool(double)>& progress);

} // namespace stone
