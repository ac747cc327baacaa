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

void Walker::setInput(const WalkInput& input, double heading_deg, Character::Moves moves)
{
    if (moves == Character::Moves::freely && quarterTurns_ && input.turn != 0 && input.turn != input_.turn) {
        const double from = turnTo_deg_.value_or(heading_deg);
        turnTo_deg_ = wrapDegrees((std::round(from / 90.0) + input.turn) * 90.0);
    }
    if (input.pressesMoreThan(input_)) {
        pressed_ = input;
    }
    input_ = input;
}

void Walker::stand()
{
    leap_ = {};
    turnTo_deg_.reset();
    pressed_.reset();
    cell_.reset();
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
    const Vec3 next = moved(ground, way, character);
    const bool stops = std::hypot(next.x - ground.x, next.y - ground.y) < bumpShare * speed * seconds;
    bumps_ += stops && !stopped_ ? 1 : 0;
    stopped_ = stops;
    return next;
}

Vec3 Walker::moved(const Vec3& ground, const Vec2& way, const Character& character)
{
    return character.collides && surface_ ? surface_->step(ground, way) : ground + Vec3{way.x, way.y, 0.0};
}

void Walker::land(Pose& feet, const Vec3& before, const Vec3& ground, double seconds)
{
    falls_ += before.z - ground.z > fall_m ? 1 : 0;
    leap_.lose(before.z - ground.z);
    leap_.pass(seconds);
    feet.at = ground + Vec3{0.0, 0.0, leap_.above_m};
}

/// Begins to turn, or to go to the next cell.
void Walker::press(const WalkInput& input, const Pose& feet, const Character& character)
{
    constexpr double quarter_deg = 90.0;
    const double facing = std::round(turnTo_deg_.value_or(feet.heading_deg) / quarter_deg) * quarter_deg;
    const bool byDirection = character.moves == Character::Moves::directions;
    const int aside = byDirection && input.right == 0 ? input.turn : input.right;
    if (!byDirection && input.turn != 0) {
        turnTo_deg_ = wrapDegrees(facing + input.turn * (input.fast ? 2.0 : 1.0) * quarter_deg);
        return;
    }
    if (input.ahead == 0 && aside == 0) {
        return;
    }
    // One way at a time: ahead and back before aside.
    const double turned = input.ahead > 0 ? 0.0 : input.ahead < 0 ? 180.0 : aside > 0 ? quarter_deg : -quarter_deg;
    const double towards = byDirection ? turned : facing + turned;
    if (byDirection) {
        turnTo_deg_ = wrapDegrees(towards);
    }
    const double heading = radians(towards);
    const Vec2 start = Vec2(character.start);
    const Vec2 cells = (Vec2(feet.at) - start) / character.cell_m;
    const Vec2 cell =
        start + character.cell_m * Vec2{std::round(cells.x + std::sin(heading)), std::round(cells.y + std::cos(heading))};
    const Vec3 ground = feet.at - Vec3{0.0, 0.0, leap_.above_m};
    const Vec3 there = moved(ground, cell - Vec2(ground), character);
    // What ends elsewhere was stopped, or slid along something.
    constexpr double missed = 0.3;
    if (glm::length(Vec2(there) - cell) > missed * character.cell_m) {
        ++bumps_;
        return;
    }
    cell_ = cell;
}

bool Walker::stepByCells(Pose& feet, const Character& character, double seconds)
{
    if (!cell_ && !turnTo_deg_) {
        // What is held goes on; turning needs a press for each turn.
        WalkInput held = input_;
        held.turn = character.moves == Character::Moves::directions ? held.turn : 0;
        if (pressed_ || !held.still()) {
            press(pressed_.value_or(held), feet, character);
        }
        pressed_.reset();
    }
    if (!cell_ && !turnTo_deg_ && !leap_.aloft()) {
        return false;
    }
    if (turnTo_deg_) {
        turn(feet, seconds);
    }
    const Vec3 ground = feet.at - Vec3{0.0, 0.0, leap_.above_m};
    Vec3 next = ground;
    if (cell_) {
        const Vec2 left = *cell_ - Vec2(ground);
        const double most_m = character.speed_m_s * (input_.fast ? fastFactor : 1.0) * seconds;
        const double left_m = glm::length(left);
        next = moved(ground, left_m > most_m ? left * (most_m / left_m) : left, character);
        if (left_m <= most_m) {
            cell_.reset();
        }
    }
    land(feet, ground, next, seconds);
    return true;
}

bool Walker::step(Pose& feet, const Character& character, double seconds)
{
    if (character.moves != Character::Moves::freely) {
        return stepByCells(feet, character, seconds);
    }
    pressed_.reset();
    const bool walks = input_.ahead != 0 || input_.right != 0;
    if (!walks && input_.turn == 0 && !leap_.aloft() && !turnTo_deg_) {
        return false;
    }
    turn(feet, seconds);
    const Vec3 ground = feet.at - Vec3{0.0, 0.0, leap_.above_m};
    land(feet, ground, walks ? walked(ground, feet.heading_deg, character, seconds) : ground, seconds);
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
