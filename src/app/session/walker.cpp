#include "app/session/walker.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double turn_deg_s = 110.0;
/// A quarter takes an eighth of a second: at once for the eye, a turn for the ear.
constexpr double quarterTurn_deg_s = 720.0;
constexpr double fastFactor = 2.5;
/// Somebody who gets less far than this share of a step has walked into something.
constexpr double bumpShare = 0.3;
constexpr double fall_m = 0.5;

} // namespace

void Walker::setLevel(const std::shared_ptr<const PlanCutter>& cutter, const std::shared_ptr<const Ground>& ground)
{
    surface_.reset();
    cutter_ = cutter;
    ground_ = ground;
    if (cutter_ && ground_) {
        surface_.emplace(*cutter_, *ground_);
    }
    bumps_ = falls_ = 0;
    stopped_ = false;
}

void Walker::setInput(const WalkInput& input, double heading_deg)
{
    if (quarterTurns_ && input.turn != 0 && input.turn != input_.turn) {
        const double from = turnTo_deg_.value_or(heading_deg);
        turnTo_deg_ = wrapDegrees((std::round(from / 90.0) + input.turn) * 90.0);
    }
    input_ = input;
}

void Walker::stand()
{
    leap_ = {};
    turnTo_deg_.reset();
}

void Walker::turn(Pose& feet, double seconds)
{
    if (turnTo_deg_) {
        const double left = wrapDegrees(*turnTo_deg_ - feet.heading_deg);
        const double most = quarterTurn_deg_s * seconds;
        feet.heading_deg = wrapDegrees(feet.heading_deg + std::clamp(left, -most, most));
        if (std::abs(left) <= most) {
            turnTo_deg_.reset();
        }
    } else if (!quarterTurns_) {
        feet.heading_deg = wrapDegrees(feet.heading_deg + input_.turn * turn_deg_s * seconds);
    }
}

Vec3 Walker::walked(const Vec3& ground, double heading_deg, const Character& character, double seconds)
{
    const double speed = character.speed_m_s * (input_.fast ? fastFactor : 1.0);
    const double heading = radians(heading_deg);
    const Vec2 ahead{std::sin(heading), std::cos(heading)};
    const Vec2 right{ahead.y, -ahead.x};
    const Vec2 direction =
        glm::normalize(ahead * static_cast<double>(input_.ahead) + right * static_cast<double>(input_.right));
    const Vec2 way = direction * (speed * seconds);
    const Vec3 next = character.collides && surface_ ? surface_->step(ground, way) : ground + Vec3{way.x, way.y, 0.0};
    const bool stops = std::hypot(next.x - ground.x, next.y - ground.y) < bumpShare * speed * seconds;
    bumps_ += stops && !stopped_ ? 1 : 0;
    stopped_ = stops;
    falls_ += ground.z - next.z > fall_m ? 1 : 0;
    return next;
}

bool Walker::step(Pose& feet, const Character& character, double seconds)
{
    const bool walks = input_.ahead != 0 || input_.right != 0;
    if (!walks && input_.turn == 0 && !leap_.aloft() && !turnTo_deg_) {
        return false;
    }
    turn(feet, seconds);
    Vec3 ground = feet.at - Vec3{0.0, 0.0, leap_.above_m};
    if (walks) {
        const Vec3 next = walked(ground, feet.heading_deg, character, seconds);
        leap_.lose(ground.z - next.z);
        ground = next;
    }
    leap_.pass(seconds);
    feet.at = ground + Vec3{0.0, 0.0, leap_.above_m};
    return true;
}

Pose flown(const Pose& from, const WalkInput& input, double speed_m_s, double seconds)
{
    Pose to = from;
    to.heading_deg = wrapDegrees(to.heading_deg + input.turn * turn_deg_s * seconds);
    const Frame frame = frameOf(to);
    const Vec3 way = frame.ahead * static_cast<double>(input.ahead) + frame.right * static_cast<double>(input.right) +
                     Vec3{0.0, 0.0, static_cast<double>(input.up)};
    if (glm::length(way) > 0.0) {
        to.at += glm::normalize(way) * (speed_m_s * (input.fast ? fastFactor : 1.0) * seconds);
    }
    return to;
}

} // namespace stone
