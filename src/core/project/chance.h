// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstdint>
#include <string_view>

namespace stone
{

/// Chance that can be asked for at any time: a number in [0, 1) that depends on nothing but the project's seed, the thing's
/// id, what it is for and a counter. So a render repeats to the byte, and adding a neighbour changes nothing else.
double chance(std::uint64_t seed, std::string_view id, std::string_view purpose, std::uint64_t counter = 0);

} // namespace stone
