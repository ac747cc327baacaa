// SPDX-License-Identifier: MPL-2.0
#include "world/replay.h"

#include "world/walk_pose.h"

#include <algorithm>
#include <cmath>

namespace stone
{

Replay::Replay(std::shared_ptr<const World> world, const Walk& walk, double step_s)
    : world_(std::move(world)), walk_(walk), walks_(true), step_s_(step_s),
      stepsPerKey_(std::max<std::uint64_t>(static_cast<std::uint64_t>(std::lround(1.0 / step_s)), 1)), keys_(1)
{
}

Replay::Replay(std::shared_ptr<const World> world, const Pose& feet, double step_s) : Replay(std::move(world), Walk{}, step_s)
{
    feet_ = feet;
    walks_ = false;
}

void Replay::advance(WorldState& state, std::uint64_t step) const
{
    const double to_s = static_cast<double>(step + 1) * step_s_;
    const std::vector<Happening> happenings =
        walks_ ? happeningsOf(walk_, static_cast<double>(step) * step_s_, to_s) : std::vector<Happening>{};
    world_->advance(state, {.to_s = to_s, .feet = walks_ ? walkPose(walk_, to_s) : feet_, .happenings = happenings});
}

WorldState Replay::at(double time_s)
{
    const auto steps = static_cast<std::uint64_t>(std::ceil(std::max(time_s, step_s_) / step_s_ - 1e-9));
    const std::uint64_t key = steps / stepsPerKey_;
    while (keys_.size() <= key) {
        WorldState state = keys_.back();
        for (std::uint64_t i = 0; i < stepsPerKey_; ++i) {
            advance(state, (keys_.size() - 1) * stepsPerKey_ + i);
        }
        keys_.push_back(std::move(state));
    }
    WorldState state = keys_[key];
    for (std::uint64_t step = key * stepsPerKey_; step < steps; ++step) {
        advance(state, step);
    }
    return state;
}

} // namespace stone
