// SPDX-License-Identifier: MPL-2.0
#include "project/chance.h"

namespace stone
{

namespace
{

/// SplitMix64's finaliser (G. Steele, D. Lea, C. Flood, "Fast Splittable Pseudorandom Number Generators", 2014).
std::uint64_t mixed(std::uint64_t x)
{
    x = (x ^ (x >> 30U)) * 0xBF58476D1CE4E5B9ULL;
    x = (x ^ (x >> 27U)) * 0x94D049BB133111EBULL;
    return x ^ (x >> 31U);
}

std::uint64_t folded(std::uint64_t state, std::string_view text)
{
    for (const char c : text) {
        state = mixed(state + 0x9E3779B97F4A7C15ULL + static_cast<unsigned char>(c));
    }
    return mixed(state + text.size());
}

} // namespace

double chance(std::uint64_t seed, std::string_view id, std::string_view purpose, std::uint64_t counter)
{
    const std::uint64_t bits = mixed(folded(folded(mixed(seed), id), purpose) + counter * 0x9E3779B97F4A7C15ULL);
    return static_cast<double>(bits >> 11U) * 0x1p-53;
}

} // namespace stone
