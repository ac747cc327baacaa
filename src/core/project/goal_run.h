// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"
#include "project/lane.h"

#include <vector>

namespace stone
{

/// What makes the way of a walk a run: from where the walk begins to a goal, by whichever way.
struct GoalRun {
    ZoneId goal;                     ///< reached with the feet in it; empty: the walk is no run
    std::vector<ZoneId> checkpoints; ///< whoever came through one is put back there
    std::vector<ZoneId> pits;        ///< whoever is in one is put back
    double fall_m = 1.0;             ///< so is whoever falls as deep; 0: falls do not matter
    SignalId onFall;                 ///< sent when somebody is put back, for what is to be heard then; empty: none
    SignalId onCheckpoint;           ///< at each checkpoint, once
    SignalId onGoal;
    Extras extras{};

    bool operator==(const GoalRun&) const = default;
};

} // namespace stone
