// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/playback.h"
#include "world/walk_pose.h"

#include <algorithm>

/// Walks: followed, and looked at moment by moment.
namespace stone
{

std::shared_ptr<const WorldState> Playback::replayed(double time_s)
{
    const Walk* walk = chosenWalk();
    if (walk == nullptr) {
        return {};
    }
    if (!replay_) {
        replay_ = std::make_unique<Replay>(scene_->model.sharedWorld(), *walk,
                                           static_cast<double>(stepFrames) / session_.bank().rate());
    }
    return std::make_shared<const WorldState>(replay_->at(time_s));
}

void Playback::chooseWalk(const WalkId& id)
{
    setWalking(false);
    walkId_ = id;
    walk_s_ = 0.0;
    replay_.reset();
    scrubbed_ = false;
    fetchWorld();
    emit walkChanged();
}

double Playback::walkLength_s() const
{
    const Walk* walk = chosenWalk();
    return walk != nullptr ? walk->seconds() : 0.0;
}

void Playback::setRecording(bool on)
{
    if (on == recording()) {
        return;
    }
    if (on) {
        fly(Flight::none);
        setWalking(false);
        recorder_.begin(feet());
    } else {
        Walk walk = recorder_.end();
        if (walk.points.size() > 1) {
            walk.name = tr("Recorded walk").toStdString();
            chooseWalk(session_.addThing(std::move(walk)));
        }
    }
    emit walkChanged();
}

void Playback::setWalking(bool on)
{
    if (on == walking_ || (on && walkId_.empty())) {
        return;
    }
    if (on) {
        setListening(true);
        if (walk_s_ >= walkLength_s()) {
            walk_s_ = 0.0;
        }
        live_->playWalk(walkId_, walk_s_, walk_s_ > 0.0 ? replayed(walk_s_) : nullptr);
    } else {
        live_->stopWalk();
        live_->setFeet(feet(), false);
    }
    walking_ = on;
    emit walkChanged();
}

void Playback::seekWalk(double time_s)
{
    const Walk* walk = chosenWalk();
    if (walk == nullptr) {
        return;
    }
    walk_s_ = std::clamp(time_s, 0.0, walk->seconds());
    player_.put(walkPose(*walk, walk_s_));
    followFeet(0.0, true);
    scrubbed_ = true;
    if (walking_) {
        live_->playWalk(walkId_, walk_s_, replayed(walk_s_));
    } else {
        live_->setFeet(feet(), false);
    }
    fetchWorld();
    emit walkChanged();
    announce();
}

} // namespace stone
