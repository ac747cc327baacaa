// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "world/world_state.h"

#include "project/document.h"

#include <string>

/// What chance decides about a sprinkle. All of it depends on the project's seed, the emitter's id and a counter alone.
namespace stone
{

struct SprinkleChance {
    std::uint64_t seed;
    const std::string& id;

    double draw(const char* purpose, std::uint64_t counter) const;
    double between(double least, double most, const char* purpose, std::uint64_t counter) const;
};

/// Time to the start of a number from the one before it, or from the end of it when the sprinkle waits for tails.
double sprinkleInterval_s(const Sprinkling& sprinkling, const SprinkleChance& chance, std::uint64_t number);

/// The mean of those times.
double meanInterval_s(const Sprinkling& sprinkling);

/// Directions taken in turns: of so many sectors each is used once before any comes again.
constexpr std::size_t sprinkleSectors = 8;

/// A place from the player's feet, as the player faces: aside, ahead, up. `sector` below sprinkleSectors; `attempt` counts
/// the tries for one start. Distances are drawn so that every square metre is as likely as any other. For rings and boxes
/// only.
Vec3 sprinklePlace(const Sprinkling& sprinkling, const SprinkleChance& chance, std::uint64_t number, std::size_t sector,
                   unsigned attempt);

} // namespace stone
