// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "world/world.h"

#include <memory>
#include <vector>

namespace stone
{

/// What a level was like at any time of a walk: the walk is gone through once, as the engine goes through it, and a state
/// kept every second, so that any moment is found again within one. For one thread at a time.
class Replay
{
public:
    /// `step_s`: the engine's control step.
    Replay(std::shared_ptr<const World> world, const Walk& walk, double step_s);
    /// Somebody who stands still.
    Replay(std::shared_ptr<const World> world, const Pose& feet, double step_s);

    /// The state at a time, 0 or later.
    WorldState at(double time_s);

private:
    void advance(WorldState& state, std::uint64_t step) const;

    std::shared_ptr<const World> world_;
    Walk walk_;
    Pose feet_;
    bool walks_;
    double step_s_;
    std::uint64_t stepsPerKey_;
    std::vector<WorldState> keys_; ///< after 0, 1, 2 ... times stepsPerKey_
};

} // namespace stone
