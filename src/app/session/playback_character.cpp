// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/playback.h"

#include <algorithm>

/// The character by hand, and what is done to the level by hand.
namespace stone
{

namespace
{

constexpr double furthestUp_deg = 85.0;

/// Something that was done to the level, as walks keep it.
WalkEvent doneBy(WalkEvent::Kind kind, const SignalId& signal = {}, const GameValueId& value = {}, double number = 0.0)
{
    WalkEvent event;
    event.kind = kind;
    event.signal = signal;
    event.value = value;
    event.number = number;
    return event;
}

} // namespace

Pose Playback::ears() const
{
    const Project& project = session_.project();
    return elsewhere_ ? stanceOf(rigOf(project, project.rig), session_.level().character, *elsewhere_, 1.0).ears
                      : player_.ears();
}

void Playback::followFeet(double seconds, bool jumped)
{
    player_.follow(session_.project(), session_.level().character, seconds, jumped);
}

/// Tells the engine where the ears are, if not where the rig has them.
void Playback::listen()
{
    live_->listenFrom(elsewhere_ || flight() == Flight::ears ? std::optional(ears()) : std::nullopt);
    emit ticked();
    emit moved();
}

void Playback::listenFrom(const std::optional<Pose>& feet)
{
    if (feet != elsewhere_) {
        elsewhere_ = feet;
        listen();
    }
}

void Playback::fly(Flight what)
{
    if (player_.fly(what)) {
        listen();
        emit flightChanged();
    }
}

void Playback::turnHead(double heading_deg, double pitch_deg, double roll_deg)
{
    const Pose turned = player_.turned(heading_deg, pitch_deg, roll_deg);
    if (player_.flies()) {
        player_.turnFlyer(turned);
        listen();
    } else {
        carryFeet(turned);
    }
}

void Playback::lookBy(double right_deg, double up_deg)
{
    const Pose& now = ownHead();
    turnHead(now.heading_deg + right_deg, std::clamp(now.pitch_deg + up_deg, -furthestUp_deg, furthestUp_deg), now.roll_deg);
}

void Playback::placeFeet(const Pose& feet)
{
    fly(Flight::none);
    putFeet(feet, true);
}

void Playback::carryFeet(const Pose& feet)
{
    putFeet(feet, false);
}

/// `jumped`: the ears are there at once.
void Playback::putFeet(const Pose& feet, bool jumped)
{
    setWalking(false);
    scrubbed_ = false;
    player_.put(feet);
    followFeet(0.0, true);
    fetchWorld();
    live_->setFeet(feet, jumped);
    announce();
}

void Playback::setWalkInput(const WalkInput& input)
{
    player_.walker().setInput(input, feet().heading_deg, session_.level().character.moves);
    if (!input.still() && walking_ && !player_.flies()) {
        setWalking(false);
    }
}

void Playback::moveByHand(double seconds)
{
    const Character& character = session_.level().character;
    if (player_.flies()) {
        if (player_.flyOn(character, seconds)) {
            listen();
        }
    } else if (walking_) {
        player_.walker().stand();
    } else if (player_.walkOn(session_.level(), seconds)) {
        scrubbed_ = false;
        live_->setFeet(feet(), false);
    }
}

void Playback::send(const SignalId& signal)
{
    recorder_.addEvent(doneBy(WalkEvent::Kind::signal, signal));
    live_->send({Cause::signal, signal});
}

void Playback::setGameValue(const GameValueId& id, double number)
{
    recorder_.addEvent(doneBy(WalkEvent::Kind::value, {}, id, number));
    live_->send({Cause::signal, {}, std::pair(id, number)});
}

void Playback::interact()
{
    recorder_.addEvent(doneBy(WalkEvent::Kind::interact));
    live_->send({Cause::interact, {}});
}

void Playback::burst(const Burst& burst)
{
    if (burst.count > 0) {
        WalkEvent event = doneBy(WalkEvent::Kind::burst);
        event.burst = burst;
        recorder_.addEvent(std::move(event));
    }
    live_->send({.burst = burst});
}

void Playback::reset()
{
    const Pose start = startPose(session_.level().character);
    if (beforeReset_ && feet() == start) {
        placeFeet(*std::exchange(beforeReset_, std::nullopt));
        return;
    }
    beforeReset_ = feet();
    beginAnew(start);
}

void Playback::beginAnew(const Pose& feet)
{
    placeFeet(feet);
    live_->send({Cause::reset, {}});
}

void Playback::jump()
{
    if (!walking_ && !player_.flies()) {
        player_.walker().jump();
    }
}

void Playback::setPaused(bool paused)
{
    if (paused) {
        live_->pause();
    } else {
        live_->goOn();
    }
}

void Playback::stepTime(double seconds)
{
    live_->goOn(seconds);
}

} // namespace stone
