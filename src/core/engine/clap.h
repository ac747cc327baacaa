// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>
#include <vector>

namespace stone
{

/// Short sounds by which one hears what a place answers.
enum class Clap {
    hands,  ///< mostly between 700 Hz and 3 kHz, a hundredth of a second
    balloon ///< a burst: louder, sharper, with more bass
};
constexpr std::size_t clapCount = 2;

/// The sound at 1 m, always the same; its largest sample is 1. `rate`: frames per second.
std::vector<float> clapSound(Clap clap, double rate);

} // namespace stone
