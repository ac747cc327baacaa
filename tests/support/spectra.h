// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "dsp/octave_bands.h"

#include <array>
#include <vector>

/// What sounds are made of, by octave band.
namespace fixture
{

using Octaves = std::array<double, stone::octaveBandCount>;

/// White noise, the same each time for the same seed.
std::vector<float> whiteNoise(double seconds, int rate = 48'000, unsigned seed = 3, float gain = 0.1F);

/// The power in each octave band, all channels together, dB, from a time on.
Octaves octaves_db(const std::vector<float>& interleaved, std::size_t channels, int rate, double from_s);

} // namespace fixture
