// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cmath>
#include <cstddef>
#include <numbers>

namespace stone
{

/// The octave bands in which losses are given, from 63 Hz (exactly 62.5) to 8 kHz.
constexpr std::size_t octaveBandCount = 8;
/// 500 Hz: the band that stands for a loss where one number is said of it.
constexpr std::size_t spokenBand = 3;

inline double bandCentre_hz(std::size_t band)
{
    return 62.5 * std::exp2(static_cast<double>(band));
}

/// Between a band and the next.
inline double bandBorder_hz(std::size_t lower)
{
    return bandCentre_hz(lower) * std::numbers::sqrt2;
}

/// A filter whose border lies above this share of the rate does nothing: there is next to nothing left to be filtered, and what
/// the tangent makes of half the rate and beyond is no filter any more.
constexpr double highestBorder = 0.45;

} // namespace stone
