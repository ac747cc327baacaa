// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/pose.h"
#include "world/zone_map.h"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <vector>

namespace stone
{

/// Follows somebody on a run from a walk's beginning to its goal: the clock, checkpoints, and when one has to be put back. It
/// decides by where the feet are alone, so any run can be judged by it, whoever moves them.
class RunWatch
{
public:
    /// `start`: where the run begins, and where it goes on after a fall before the first checkpoint.
    RunWatch(const GoalRun& run, const ZoneMap& zones, const Pose& start);

    /// So far above the feet is what has to be in a zone.
    static constexpr double body_m = 0.5;

    /// What has happened at a moment.
    struct News {
        bool began = false;                    ///< the clock has begun to run
        std::optional<std::size_t> checkpoint; ///< into the run's: come to for the first time
        std::optional<Pose> putBack;           ///< fell, or is in a pit: the feet are to be there at once
        bool reached = false;                  ///< the goal: the clock stands
    };
    /// Goes on. `zones`: round the body; `seconds`: since it was asked last, >= 0. After the goal nothing more happens.
    News follow(const Pose& feet, const ZonesAt& zones, double seconds);

    /// Since the feet first moved away from the start; stands at the goal.
    double seconds() const { return seconds_; }
    bool over() const { return over_; }
    int falls() const { return falls_; }
    std::size_t checkpointsReached() const { return reached_; }

private:
    bool fallsTooDeep(const Pose& feet, double seconds);

    GoalRun run_;
    std::optional<std::uint32_t> goal_; ///< by the map's numbers
    std::vector<std::optional<std::uint32_t>> checkpoints_;
    std::vector<std::uint32_t> pits_;
    std::vector<bool> seen_; ///< by checkpoint
    Pose start_;
    Pose back_; ///< where one is put
    std::optional<Vec3> before_;
    double top_m_ = 0.0;              ///< from where one falls, or stands
    std::optional<double> tookOff_m_; ///< while it jumps, from where
    double slow_s_ = 0.0;             ///< for how long it has gone neither up nor down fast since
    bool begun_ = false;
    bool over_ = false;
    double seconds_ = 0.0;
    int falls_ = 0;
    std::size_t reached_ = 0;
};

} // namespace stone
