// SPDX-License-Identifier: MPL-2.0
#include "world/run_watch.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Whoever has moved so far has begun.
constexpr double begins_m = 0.1;
/// Who goes down no faster than this walks down a slope or stairs; two metres in a second is fallen, not walked.
constexpr double walksDown_m_s = 2.0;
/// Nobody hangs longer at the top of a jump than this.
constexpr double longestApex_s = 3.0;

} // namespace

RunWatch::RunWatch(const GoalRun& run, const ZoneMap& zones, const Pose& start)
    : run_(run), goal_(zones.indexOf(run.goal)), seen_(run.checkpoints.size(), false), start_(start), back_(start),
      top_m_(start.at.z)
{
    for (const ZoneId& id : run_.checkpoints) {
        checkpoints_.push_back(zones.indexOf(id));
    }
    for (const ZoneId& id : run_.pits) {
        if (const auto pit = zones.indexOf(id)) {
            pits_.push_back(*pit);
        }
    }
}

/// Falls are told from slopes by how fast the feet go down. What begins slowly counts from where it began: while one stands or
/// walks the top goes along.
/// What one has jumped up is not fallen: then it counts from where one took off.
bool RunWatch::fallsTooDeep(const Pose& feet, double seconds)
{
    const double down_m = before_ ? before_->z - feet.at.z : 0.0;
    if (before_ && seconds > 0.0 && -down_m > walksDown_m_s * seconds) {
        tookOff_m_ = tookOff_m_.value_or(before_->z);
        slow_s_ = 0.0;
    } else if (tookOff_m_) {
        slow_s_ = std::abs(down_m) > walksDown_m_s * seconds ? 0.0 : slow_s_ + seconds;
        if (down_m == 0.0 || slow_s_ > longestApex_s) {
            tookOff_m_.reset(); // it walks again
        }
    }
    const bool falling = seconds > 0.0 && down_m > walksDown_m_s * seconds;
    if (!falling) {
        // The first moments of a fall are slow: the top stays for as long as one goes down at all.
        const bool down = down_m > 1e-6;
        top_m_ = down ? std::min(top_m_, feet.at.z + walksDown_m_s * walksDown_m_s / (2.0 * 9.81)) : feet.at.z;
        return false;
    }
    return run_.fall_m > 0.0 && std::min(top_m_, tookOff_m_.value_or(top_m_)) - feet.at.z >= run_.fall_m;
}

RunWatch::News RunWatch::follow(const Pose& feet, const ZonesAt& zones, double seconds)
{
    News news;
    if (over_) {
        return news;
    }
    if (!begun_ && glm::distance(feet.at, start_.at) > begins_m) {
        begun_ = news.began = true;
    }
    seconds_ += begun_ ? seconds : 0.0;
    const bool inPit = std::any_of(pits_.begin(), pits_.end(), [&](std::uint32_t pit) { return zones.depth(pit) > 0.0; });
    if (fallsTooDeep(feet, seconds) || inPit) {
        ++falls_;
        news.putBack = back_;
        before_.reset();
        tookOff_m_.reset();
        top_m_ = back_.at.z;
        return news;
    }
    before_ = feet.at;
    for (std::size_t i = 0; i < checkpoints_.size(); ++i) {
        if (!seen_[i] && checkpoints_[i] && zones.depth(*checkpoints_[i]) > 0.0) {
            seen_[i] = true;
            ++reached_;
            back_ = feet;
            news.checkpoint = i;
        }
    }
    if (goal_ && zones.depth(*goal_) > 0.0) {
        over_ = news.reached = true;
    }
    return news;
}

} // namespace stone
