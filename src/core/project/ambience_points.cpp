// SPDX-License-Identifier: MPL-2.0
#include "project/ambience_points.h"

namespace stone
{

namespace
{

Sprinkling ring(double least_s, double most_s, double nearest_m, double farthest_m, double lowest_deg, double highest_deg)
{
    Sprinkling s;
    s.least_s = least_s;
    s.most_s = most_s;
    s.nearest_m = nearest_m;
    s.farthest_m = farthest_m;
    s.lowest_deg = lowest_deg;
    s.highest_deg = highest_deg;
    return s;
}

Sprinkling natural(Sprinkling s)
{
    s.naturalRate = true;
    return s;
}

std::vector<SprinklePoint> makeSprinklePoints()
{
    Sprinkling drops = natural(ring(0.3, 2.5, 1.5, 8.0, 10.0, 60.0));
    drops.atOnce = 6;
    Sprinkling calls = natural(ring(8.0, 40.0, 20.0, 60.0, 0.0, 10.0));
    calls.waitsForTail = true;
    calls.atOnce = 1;
    calls.outsideSolids = false;
    Sprinkling behind = ring(12.0, 45.0, 4.0, 10.0, 0.0, 10.0);
    behind.fromAngle_deg = 110.0;
    behind.toAngle_deg = 250.0;
    behind.atOnce = 1;
    Sprinkling overhead = natural(ring(4.0, 20.0, 4.0, 14.0, 50.0, 85.0));
    overhead.atOnce = 1;
    Sprinkling swarm = natural(ring(0.1, 0.8, 1.0, 5.0, -10.0, 30.0));
    swarm.atOnce = 12;
    swarm.evenly = false;
    Sprinkling passing = ring(15.0, 60.0, 6.0, 16.0, 0.0, 15.0);
    passing.follows = true;
    passing.atOnce = 1;
    Sprinkling things = natural(ring(5.0, 25.0, 3.0, 12.0, 0.0, 20.0));
    things.skipChance = 0.2;
    return {{"Drops about one", "many small ones near by and above, a few together", drops},
            {"Things that settle", "creaks and ticks of a place, now and then, none for a while", things},
            {"Calls from afar", "one at a time, seldom, never over each other", calls},
            {"Something behind", "rare, at one's back, as far as a room", behind},
            {"Overhead", "one at a time, high above", overhead},
            {"A swarm", "many at once, all about the head, no order to it", swarm},
            {"Goes along", "rare ones that keep beside the player", passing}};
}

} // namespace

const std::vector<SprinklePoint>& sprinklePoints()
{
    static const std::vector<SprinklePoint> points = makeSprinklePoints();
    return points;
}

const std::vector<BedPoint>& bedPoints()
{
    static const std::vector<BedPoint> points{{"Room air",
                                               "close about the head, hardly heard outside",
                                               false,
                                               -18.0,
                                               {.reference_m = 0.5, .maximum_m = 12.0, .silentAt_m = 12.0}},
                                              {"Open air",
                                               "wide, stays in the world, carries far",
                                               true,
                                               -12.0,
                                               {.reference_m = 6.0, .maximum_m = 120.0, .silentAt_m = 120.0}},
                                              {"Hall",
                                               "wide, stays in the world, leaks into what is beside it",
                                               true,
                                               -14.0,
                                               {.reference_m = 2.0, .maximum_m = 40.0, .silentAt_m = 40.0}},
                                              {"Machine hall",
                                               "loud all round, heard well before one enters",
                                               true,
                                               -6.0,
                                               {.reference_m = 4.0, .maximum_m = 70.0, .silentAt_m = 70.0}},
                                              {"In the head",
                                               "a bed for the ears alone: heard at once at the border",
                                               false,
                                               -16.0,
                                               {.reference_m = 0.3, .maximum_m = 3.0, .silentAt_m = 3.0}}};
    return points;
}

} // namespace stone
