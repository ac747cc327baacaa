// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

namespace stone
{

/// Reading between samples with a Kaiser-windowed sinc of 16 points from a table of 128 phases, interpolated between phases
/// (J. O. Smith, Digital Audio Resampling). A tone of up to 10 kHz shifted by up to 12 semitones leaves nothing else above
/// -75 dB.
constexpr std::size_t sincTaps = 16;
constexpr std::int64_t sincTapsBefore = 7; ///< the first point lies so many samples before the place

/// Reads out.size() places, the first at `place` and each `step` after the one before, 32.32 fixed point: exact sums, so the
/// same in whatever pieces they are asked for. `samples`: sincTapsBefore before the place 0; all points must lie within it.
/// Takes no lock and allocates nothing.
void readSinc(const float* samples, std::int64_t place, std::int64_t step, std::span<float> out);

} // namespace stone
