// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/player.h"

namespace stone
{

void Player::setLevel(const std::shared_ptr<const PlanCutter>& cutter, std::shared_ptr<const Ground> ground)
{
    ground_ = std::move(ground);
    walker_.setLevel(cutter, ground_);
}

void Player::put(const Pose& feet)
{
    walker_.stand();
    feet_ = feet;
}

void Player::follow(const Project& project, const Character& character, double seconds, bool jumped)
{
    stance_ = listener_.step(project, character, feet_, ground_.get(), seconds, jumped);
}

bool Player::fly(Flight what)
{
    if (what == flight_) {
        return false;
    }
    if (flight_ == Flight::none) {
        flyer_ = what == Flight::ears ? stance_.ears : stance_.camera;
    }
    flight_ = what;
    walker_.stand();
    return true;
}

Pose Player::turned(double heading_deg, double pitch_deg, double roll_deg) const
{
    Pose turned = flies() ? flyer_ : feet_;
    turned.heading_deg = wrapDegrees(heading_deg);
    turned.pitch_deg = pitch_deg;
    turned.roll_deg = roll_deg;
    return turned;
}

bool Player::flyOn(const Character& character, double seconds)
{
    if (walker_.input().still()) {
        return false;
    }
    flyer_ = flown(flyer_, walker_.input(), character.speed_m_s, seconds);
    return true;
}

} // namespace stone
