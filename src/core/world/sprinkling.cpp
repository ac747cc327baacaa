// SPDX-License-Identifier: MPL-2.0
#include "world/sprinkling.h"

#include "project/chance.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Attempts of one start have counters of their own.
std::uint64_t counterOf(std::uint64_t number, unsigned attempt)
{
    return (number << 8U) | attempt;
}

} // namespace

double SprinkleChance::draw(const char* purpose, std::uint64_t counter) const
{
    return chance(seed, id, purpose, counter);
}

double SprinkleChance::between(double least, double most, const char* purpose, std::uint64_t counter) const
{
    return least + (most - least) * draw(purpose, counter);
}

double meanInterval_s(const Sprinkling& sprinkling)
{
    return (sprinkling.least_s + sprinkling.most_s) / 2.0;
}

double sprinkleInterval_s(const Sprinkling& sprinkling, const SprinkleChance& chance, std::uint64_t number)
{
    if (!sprinkling.naturalRate) {
        return chance.between(sprinkling.least_s, sprinkling.most_s, "interval", number);
    }
    const double beyond_s = meanInterval_s(sprinkling) - sprinkling.least_s;
    return sprinkling.least_s - beyond_s * std::log(1.0 - chance.draw("interval", number));
}

Vec3 sprinklePlace(const Sprinkling& s, const SprinkleChance& chance, std::uint64_t number, std::size_t sector,
                   unsigned attempt)
{
    const std::uint64_t counter = counterOf(number, attempt);
    if (s.where == Sprinkling::Where::box) {
        // Turns are taken in slices of the box from left to right.
        const double across = s.evenly ? (static_cast<double>(sector) + chance.draw("aside", counter)) / sprinkleSectors
                                       : chance.draw("aside", counter);
        return {s.low_m.x + (s.high_m.x - s.low_m.x) * across, chance.between(s.low_m.y, s.high_m.y, "ahead", counter),
                chance.between(s.low_m.z, s.high_m.z, "up", counter)};
    }
    const double turn = s.evenly ? (static_cast<double>(sector) + chance.draw("angle", counter)) / sprinkleSectors
                                 : chance.draw("angle", counter);
    const double angle = radians(s.fromAngle_deg + (s.toAngle_deg - s.fromAngle_deg) * turn);
    // Even over the ring: the square of the distance is evenly distributed.
    const double distance =
        std::sqrt(chance.between(s.nearest_m * s.nearest_m, s.farthest_m * s.farthest_m, "distance", counter));
    // Even over the sphere: the sine of the elevation is.
    const double up = chance.between(std::sin(radians(s.lowest_deg)), std::sin(radians(s.highest_deg)), "elevation", counter);
    const double level = std::sqrt(std::max(1.0 - up * up, 0.0));
    return Vec3{std::sin(angle) * level, std::cos(angle) * level, up} * distance;
}

} // namespace stone
