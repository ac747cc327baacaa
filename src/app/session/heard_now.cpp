// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/heard_now.h"

#include "hearing/loudest_start.h"

#include <algorithm>
#include <utility>

namespace stone
{

std::shared_ptr<const HeardStep> HeardNow::fitting(const std::shared_ptr<const HeardStep>& step,
                                                   const std::shared_ptr<const Scene>& scene)
{
    if (!step || step->scene == scene) {
        return step;
    }
    if (compared_.first.lock() != step->scene || compared_.second.lock() != scene) {
        // An audition is one emitter more, the last.
        const auto sameIds = [](const auto& then, const auto& now) {
            return then.size() >= now.size() &&
                   std::equal(now.begin(), now.end(), then.begin(),
                              [](const auto& a, const auto& b) { return a == b || a->id == b->id; });
        };
        const Level& then = step->scene->model.level();
        const Level& now = scene->model.level();
        sameNumbers_ = then.id == now.id && sameIds(then.emitters, now.emitters) && sameIds(then.rooms, now.rooms) &&
                       then.rooms.size() == now.rooms.size();
        compared_ = {step->scene, scene};
    }
    return sameNumbers_ ? step : nullptr;
}

void HeardNow::look(const std::shared_ptr<const Scene>& scene, const std::shared_ptr<const HeardStep>& step, const Moment& now)
{
    const Moment& then = moment_;
    const bool same = scene_ == scene && step_ == step && static_cast<const Pose&>(now.ears) == then.ears &&
                      now.gaze == then.gaze && now.feet == then.feet && now.visitor == then.visitor &&
                      now.nearest == then.nearest && now.when.from_s == then.when.from_s && now.when.to_s == then.when.to_s &&
                      now.state == then.state;
    if (same) {
        return;
    }
    if (scene_ != scene) {
        scratch_ = {};
        scratch_.memory.emplace(false);
    }
    scene_ = scene;
    step_ = step;
    moment_ = now;
    all_ = reached_ = false;
}

const std::vector<Heard>& HeardNow::heard()
{
    if (!std::exchange(all_, true) && scene_) {
        scene_->model.hearAll(moment_, step_ ? std::span<const Heard>(step_->heard) : std::span<const Heard>{}, heard_,
                              scratch_);
    }
    return heard_;
}

const Heard& HeardNow::heardOf(std::uint32_t index)
{
    const Heard* known = step_ ? loudestIn(step_->heard, index) : nullptr;
    return known != nullptr ? *known : heard()[index];
}

const std::vector<RoomHeard>& HeardNow::rooms()
{
    if (step_) {
        return step_->rooms;
    }
    heard();
    return scratch_.roomsHeard;
}

const std::vector<Heard>& HeardNow::inReach()
{
    if (!reached_) {
        if (step_) {
            inReach_ = step_->heard;
            const std::size_t shown = scene_->model.level().emitters.size();
            std::erase_if(inReach_, [&](const Heard& one) { return one.index >= shown; });
        } else {
            scene_->model.hear(moment_, inReach_, reachScratch_);
        }
        reached_ = true;
    }
    return inReach_;
}

} // namespace stone
