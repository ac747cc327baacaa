// SPDX-License-Identifier: MPL-2.0
#include "project/starting_points.h"

namespace stone
{

namespace
{

Lane inverse(double full_m, double silent_m, double factor = 1.0)
{
    Lane lane;
    lane.formula = {.model = DistanceModel::inverse,
                    .reference_m = full_m,
                    .maximum_m = silent_m,
                    .factor = factor,
                    .silentAt_m = silent_m};
    return lane;
}

Lane drawn(LaneProperty property, Curve curve)
{
    Lane lane;
    lane.property = property;
    lane.shape = LaneShape::curve;
    lane.curve = std::move(curve);
    return lane;
}

StartingPoint make(std::string name, std::string reason, std::vector<Lane> lanes)
{
    StartingPoint point{name, std::move(reason), {}};
    point.falloff.name = std::move(name);
    point.falloff.lanes = std::move(lanes);
    return point;
}

} // namespace

const std::vector<StartingPoint>& startingPoints()
{
    constexpr auto smooth = Segment::smooth;
    static const std::vector<StartingPoint> points{
        make("Small prop", "A thing for the hand: there at arm's length, gone across the room, so that many can stand together",
             {inverse(0.5, 6.0, 1.5)}),
        make("Lamp", "A hum nobody should follow across a hall: quickly softer, and duller before it is gone",
             {inverse(0.6, 9.0, 1.3), drawn(LaneProperty::lowPass, {{1.5, 20'000, smooth}, {9.0, 3000}})}),
        make("Voice", "Understood at table distance, heard down the platform; consonants go first",
             {inverse(1.5, 35.0), drawn(LaneProperty::lowPass, {{6.0, 20'000, smooth}, {35.0, 4000}}),
              drawn(LaneProperty::send, {{1.0, -12, smooth}, {20.0, -3}})}),
        make("Machine", "As big as a wardrobe: wide when one stands at it, a point from across the hall",
             {inverse(2.0, 45.0), drawn(LaneProperty::spread, {{1.0, 90, smooth}, {12.0, 10}}),
              drawn(LaneProperty::lowPass, {{10.0, 20'000, smooth}, {45.0, 2500}})}),
        make("Speaking horn", "Meant to carry: full for the whole room, then down fast, thin in the low end when near the edge",
             {drawn(LaneProperty::level, {{0.0, 0}, {12.0, 0, smooth}, {40.0, -15, smooth}, {70.0, -96}}),
              drawn(LaneProperty::highPass, {{0.0, 300}}), drawn(LaneProperty::send, {{2.0, -9, smooth}, {30.0, 0}})}),
        make("Landmark", "To find one's way by: never quite gone inside its reach, so that its direction stays readable",
             {drawn(LaneProperty::level, {{3.0, 0, smooth}, {20.0, -8, smooth}, {80.0, -18, smooth}, {120.0, -96}}),
              drawn(LaneProperty::lowPass, {{20.0, 20'000, smooth}, {120.0, 2000}})}),
        make("Weir", "Wide water: surrounds at the rail, draws together with distance, low end left last",
             {inverse(6.0, 160.0), drawn(LaneProperty::spread, {{4.0, 200, smooth}, {60.0, 20}}),
              drawn(LaneProperty::lowPass, {{15.0, 20'000, smooth}, {160.0, 1200}})}),
        make("Far away", "Always the same distance off, whatever one does: level stays, wide and dull",
             {drawn(LaneProperty::level, {{0.0, 0}}), drawn(LaneProperty::spread, {{0.0, 60}}),
              drawn(LaneProperty::lowPass, {{0.0, 2500}})}),
    };
    return points;
}

} // namespace stone
