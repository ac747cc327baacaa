#pragma once

#include "level/ground.h"
#include "level/plan_cut.h"

#include <map>

namespace stone
{

/// How high a character is above the floor that it stands or falls on: jumping, and falling off what it walked over the edge
/// of.
struct Leap {
    double above_m = 0.0;
    double rise_m_s = 0.0;

    bool aloft() const { return above_m > 0.0 || rise_m_s > 0.0; }
    /// Jumps, if it stands.
    void jump();
    /// The floor under it has come to be so much lower (or higher, below 0): it is left in the air.
    void lose(double drop_m);
    /// Time passes: free fall, down to the floor.
    void pass(double seconds);
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

    /// Where the feet are after a step of `way` (in the plan, at most a few metres). Slides along walls; goes up and
    /// down with the floor; stands still rather than go where there is no floor. Over a level without any floor below
    /// the feet to begin with, the height stays.
    Vec3 step(const Vec3& feet, const Vec2& way);

    /// The feet put down on the floor at or below them; as they are when there is none.
    Vec3 onFloor(const Vec3& feet) const;

private:
    const PlanCut& wallsAt(double height_m);
    Vec2 pushedOut(const Vec2& at, double feet_m);

    std::optional<double> floor_m(const Vec3& feet, double down_m) const;

    const PlanCutter* cutter_;
    const Ground* ground_;
    std::map<long, PlanCut> cuts_; ///< by height in steps of 5 cm
};

} // namespace stone
