// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/pose.h"
#include "level/walk_surface.h"
#include "project/document.h"
#include "world/walk_pose.h"

#include <memory>
#include <optional>

namespace stone
{

/// Which way somebody is being walked, turned and, in flight, lifted right now, each -1, 0 or 1.
struct WalkInput {
    int ahead = 0;
    int right = 0;
    int turn = 0; ///< 1: to the right
    int up = 0;   ///< in flight only
    bool fast = false;

    bool operator==(const WalkInput&) const = default;
    bool still() const { return ahead == 0 && right == 0 && turn == 0 && up == 0; }
    /// Whether something is pressed that was not before.
    bool pressesMoreThan(const WalkInput& before) const
    {
        const auto pressed = [](int now, int then) { return now != 0 && now != then; };
        return pressed(ahead, before.ahead) || pressed(right, before.right) || pressed(turn, before.turn);
    }
};

/// Moves the character as hands on the keys do: on floors and along walls, turned steadily or by quarters, from cell to cell
/// where the level says so, along the sheet of a side-on level, jumping and falling. Window thread only.
class Walker
{
public:
    /// Null for a level without geometry: then the ground is even and nothing stands in the way.
    void setLevel(const std::shared_ptr<const PlanCutter>& cutter, const std::shared_ptr<const Ground>& ground);

    /// `heading_deg`: of the character, from where a quarter turn begins.
    void setInput(const WalkInput& input, double heading_deg, Character::Moves moves);
    const WalkInput& input() const { return input_; }
    /// Turns by a quarter at a time, as in games on a grid; the ear gets it as a quick turn, not as a jump.
    void setQuarterTurns(bool on) { quarterTurns_ = on; }
    bool quarterTurns() const { return quarterTurns_; }
    /// As soon as it moves on, if it stands then.
    void jump() { jumps_ = true; }
    /// Ends a jump or a turn that is on its way.
    void stand();

    /// Goes on for so long; whether there was anything to do. In a side-on level the keys to the sides, those that turn too, go
    /// along its sheet, and the one ahead jumps.
    bool step(Pose& feet, const Level& level, double seconds);

    /// How often, since the level was set, something stopped the character, and how often the floor was lost.
    int bumps() const { return bumps_; }
    int falls() const { return falls_; }

private:
    void turn(Pose& feet, double seconds);
    Vec2 wayByKeys(double heading_deg) const;
    bool stepFreely(Pose& feet, const Level& level, double seconds);
    bool stepByCells(Pose& feet, const Level& level, double seconds);
    void press(const WalkInput& input, const Pose& feet, const Level& level);
    /// Where the floor takes somebody who goes so far, in a direction of the plan (a unit vector, or nothing).
    Vec3 walked(const Pose& feet, const Vec2& direction, const Level& level, double seconds);
    /// Where the floor takes somebody who goes that way; of one in the air what is below then.
    Vec3 moved(const Pose& feet, const Vec2& way, const Level& level);
    Vec3 groundOf(const Pose& feet) const { return feet.at - Vec3{0.0, 0.0, leap_.above_m}; }
    /// Puts the character down there after what was under it before.
    void land(Pose& feet, const Vec3& before, const Vec3& ground, const Character& character, double seconds);

    std::shared_ptr<const PlanCutter> cutter_;
    std::shared_ptr<const Ground> ground_;
    std::optional<WalkSurface> surface_;
    WalkInput input_;
    Leap leap_;
    bool quarterTurns_ = false;
    bool jumps_ = false;
    std::optional<double> turnTo_deg_; ///< a quarter turn on its way
    std::optional<WalkInput> pressed_; ///< what was pressed and has not been gone yet
    std::optional<Vec2> cell_;         ///< the middle of the cell that it is on its way to
    bool stopped_ = false;             ///< by something that was counted
    int bumps_ = 0;
    int falls_ = 0;
};

/// A pose that flies on as the keys say: where it looks, through everything.
Pose flown(const Pose& from, const WalkInput& input, double speed_m_s, double seconds);

} // namespace stone
