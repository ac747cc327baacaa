// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/ground.h"
#include "level/plan_cut.h"

#include <algorithm>
#include <map>
#include <optional>

namespace stone
{

/// How high a character is above the floor that it stands or falls on: jumping, and falling off what it walked over the edge
/// of.
struct Leap {
    double above_m = 0.0;
    double rise_m_s = 0.0;
    double fallen_m = 0.0; ///< how much lower the floor has become since it left one

    bool aloft() const { return above_m > 0.0 || rise_m_s > 0.0; }
    /// Jumps so high, if it stands.
    void jump(double height_m, double gravity_m_s2);
    /// The floor under it has come to be so much lower (or higher, below 0): it is left in the air.
    void lose(double drop_m);
    /// Its head met something.
    void stopRising() { rise_m_s = std::min(rise_m_s, 0.0); }
    /// Time passes: free fall, down to the floor. How much lower that is where it has come down; nothing: it has not.
    std::optional<double> pass(double seconds, double gravity_m_s2);
};

/// How somebody gets over what is in the way.
struct Gait {
    double step_m;     ///< so high up at once
    double knee_m;     ///< what stands up to there above the feet stops nobody
    double mostFall_m; ///< floors farther down are not stepped over
};

/// Where a character can go in a level: floors carry it, walls stop it. Keeps the cuts that it needed, so that walking
/// on one floor cuts the level once. Not thread-safe.
class WalkSurface
{
public:
    /// Both must be of one mesh and outlive this.
    WalkSurface(const PlanCutter& cutter, const Ground& ground) : cutter_(&cutter), ground_(&ground) {}

    static constexpr double bodyRadius_m = 0.25;
    static constexpr double highestStep_m = 0.45; ///< taken without jumping
    static constexpr double mostFall_m = 3.0;     ///< deeper holes are not stepped into
    /// On foot; and who would rather fall than stop at a brink.
    /// Knees are below the highest step by more than cuts are rounded: what is no step is met as a wall.
    static constexpr Gait walking{highestStep_m, 0.42, mostFall_m};
    static constexpr Gait daring{highestStep_m, 0.42, 1e4};
    /// In the air, as one jumps on things and over holes.
    static constexpr Gait leaping{0.15, 0.1, 1e4};

    /// Where the feet are after a step of `way` (in the plan, at most a few metres). Slides along walls; goes up and
    /// down with the floor; stands still rather than go where there is no floor. Over a level without any floor below
    /// the feet to begin with, the height stays.
    Vec3 step(const Vec3& feet, const Vec2& way, const Gait& gait = walking);

    /// The same for feet in the air, at their height all the way; with the floor that is below them then.
    Vec3 leap(const Vec3& feet, const Vec2& way);

    /// How far there is nothing above a head, up to so far.
    double freeAbove(const Vec3& head, double within_m) const;

    /// The feet put down on the floor at or below them; as they are when there is none.
    Vec3 onFloor(const Vec3& feet) const;

private:
    const PlanCut& wallsAt(double height_m);
    Vec2 pushedOut(const Vec2& at, double knees_m);
    Vec3 moved(const Vec3& feet, const Vec2& way, const Gait& gait, bool inTheAir);

    std::optional<double> floor_m(const Vec3& feet, const Gait& gait) const;

    const PlanCutter* cutter_;
    const Ground* ground_;
    std::map<long, PlanCut> cuts_; ///< by height in steps of 5 cm
};

} // namespace stone
