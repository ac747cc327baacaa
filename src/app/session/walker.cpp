// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/walker.h"

#include <algorithm>
#include <cmath>
#include <utility>

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
/// So far above the ears a head ends.
constexpr double scalp_m = 0.15;

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
    jumps_ = false;
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

Vec2 Walker::wayByKeys(double heading_deg) const
{
    const double heading = radians(heading_deg);
    const Vec2 ahead{std::sin(heading), std::cos(heading)};
    const Vec2 right{ahead.y, -ahead.x};
    const Vec2 way = ahead * static_cast<double>(input_.ahead) + right * static_cast<double>(input_.right);
    const double length = glm::length(way);
    return length > 0.0 ? way / length : way;
}

Vec3 Walker::walked(const Pose& feet, const Vec2& direction, const Level& level, double seconds)
{
    const Vec3 ground = groundOf(feet);
    if (direction == Vec2{0.0}) {
        return ground;
    }
    const double way_m = level.character.speed_m_s * (input_.fast ? fastFactor : 1.0) * seconds;
    const Vec3 next = moved(feet, direction * way_m, level);
    const bool stops = std::hypot(next.x - ground.x, next.y - ground.y) < bumpShare * way_m;
    bumps_ += stops && !stopped_ ? 1 : 0;
    stopped_ = stops;
    return next;
}

Vec3 Walker::moved(const Pose& feet, const Vec2& way, const Level& level)
{
    const Vec3 ground = groundOf(feet);
    if (!level.character.collides || !surface_) {
        return ground + Vec3{way.x, way.y, 0.0};
    }
    Vec3 next = leap_.aloft() ? surface_->leap(feet.at, way)
                              : surface_->step(ground, way, level.sideOn ? WalkSurface::daring : WalkSurface::walking);
    if (level.sideOn) {
        // What it slides along does not push it off its sheet.
        next = fromSheet(*level.sideOn, onSheet(*level.sideOn, next), across(*level.sideOn, feet.at));
    }
    return next;
}

void Walker::land(Pose& feet, const Vec3& before, const Vec3& ground, const Character& character, double seconds)
{
    if (std::exchange(jumps_, false)) {
        leap_.jump(character.jump_m, character.gravity_m_s2);
    }
    leap_.lose(before.z - ground.z);
    if (surface_ && character.collides && leap_.rise_m_s > 0.0) {
        const Vec3 head = ground + Vec3{0.0, 0.0, leap_.above_m + character.earsHeight_m};
        const double rises_m = leap_.rise_m_s * seconds;
        if (surface_->freeAbove(head, rises_m + scalp_m) < rises_m + scalp_m) {
            leap_.stopRising();
        }
    }
    falls_ += leap_.pass(seconds, character.gravity_m_s2).value_or(0.0) > fall_m ? 1 : 0;
    feet.at = ground + Vec3{0.0, 0.0, leap_.above_m};
}

/// Begins to turn, or to go to the next cell.
void Walker::press(const WalkInput& input, const Pose& feet, const Level& level)
{
    const Character& character = level.character;
    constexpr double quarter_deg = 90.0;
    const double facing = std::round(turnTo_deg_.value_or(feet.heading_deg) / quarter_deg) * quarter_deg;
    const bool byDirection = character.moves == Character::Moves::directions || level.sideOn;
    const int aside = byDirection && input.right == 0 ? input.turn : input.right;
    if (!byDirection && input.turn != 0) {
        turnTo_deg_ = wrapDegrees(facing + input.turn * (input.fast ? 2.0 : 1.0) * quarter_deg);
        return;
    }
    jumps_ = jumps_ || (level.sideOn && input.ahead > 0);
    const int ahead = level.sideOn ? 0 : input.ahead;
    if (ahead == 0 && aside == 0) {
        return;
    }
    // One way at a time: ahead and back before aside.
    const double turned = ahead > 0 ? 0.0 : ahead < 0 ? 2.0 * quarter_deg : aside > 0 ? quarter_deg : -quarter_deg;
    const double towards = turned + (level.sideOn ? headingInto(*level.sideOn) : byDirection ? 0.0 : facing);
    if (byDirection) {
        turnTo_deg_ = wrapDegrees(towards);
    }
    const double heading = radians(towards);
    const Vec2 start = Vec2(character.start);
    const Vec2 cells = (Vec2(feet.at) - start) / character.cell_m;
    const Vec2 cell =
        start + character.cell_m * Vec2{std::round(cells.x + std::sin(heading)), std::round(cells.y + std::cos(heading))};
    const Vec3 there = moved(feet, cell - Vec2(feet.at), level);
    // What ends elsewhere was stopped, or slid along something.
    constexpr double missed = 0.3;
    if (glm::length(Vec2(there) - cell) > missed * character.cell_m) {
        ++bumps_;
        return;
    }
    cell_ = cell;
}

bool Walker::stepByCells(Pose& feet, const Level& level, double seconds)
{
    const Character& character = level.character;
    if (!cell_ && !turnTo_deg_) {
        // What is held goes on; turning needs a press for each turn.
        WalkInput held = input_;
        held.turn = character.moves == Character::Moves::directions ? held.turn : 0;
        if (pressed_ || !held.still()) {
            press(pressed_.value_or(held), feet, level);
        }
        pressed_.reset();
    }
    if (!cell_ && !turnTo_deg_ && !leap_.aloft() && !jumps_) {
        return false;
    }
    if (turnTo_deg_) {
        turn(feet, seconds);
    }
    const Vec3 ground = groundOf(feet);
    Vec3 next = ground;
    if (cell_) {
        const Vec2 left = *cell_ - Vec2(ground);
        const double most_m = character.speed_m_s * (input_.fast ? fastFactor : 1.0) * seconds;
        const double left_m = glm::length(left);
        next = moved(feet, left_m > most_m ? left * (most_m / left_m) : left, level);
        if (left_m <= most_m) {
            cell_.reset();
        }
    }
    land(feet, ground, next, character, seconds);
    return true;
}

bool Walker::stepFreely(Pose& feet, const Level& level, double seconds)
{
    const std::optional<WalkInput> pressed = std::exchange(pressed_, std::nullopt);
    Vec2 way{0.0};
    if (level.sideOn) {
        const int along = input_.right != 0 ? input_.right : input_.turn;
        way = Vec2(fromSheet(*level.sideOn, {static_cast<double>(along), 0.0}));
        jumps_ = jumps_ || (pressed && pressed->ahead > 0);
        if (along != 0) {
            turnTo_deg_ = headingAlong({way, 0.0});
        }
    } else {
        way = wayByKeys(feet.heading_deg);
    }
    const bool turns = turnTo_deg_ || (input_.turn != 0 && !level.sideOn);
    if (way == Vec2{0.0} && !turns && !leap_.aloft() && !jumps_) {
        return false;
    }
    if (turns) {
        turn(feet, seconds);
        way = level.sideOn ? way : wayByKeys(feet.heading_deg);
    }
    const Vec3 ground = groundOf(feet);
    land(feet, ground, walked(feet, way, level, seconds), level.character, seconds);
    return true;
}

bool Walker::step(Pose& feet, const Level& level, double seconds)
{
    return level.character.moves == Character::Moves::freely ? stepFreely(feet, level, seconds)
                                                             : stepByCells(feet, level, seconds);
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
