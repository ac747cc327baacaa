// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <array>

namespace stone
{

/// Centre frequencies of the octave bands that everything here speaks of, Hz.
constexpr std::array<double, 8> octaveBands_hz{63, 125, 250, 500, 1000, 2000, 4000, 8000};

/// One value for each octave band, dB.
using Bands = std::array<double, 8>;

/// Metres per second; the value behind all delays, Doppler shifts and wavelengths here.
constexpr double speedOfSound_m_s = 343.0;

/// What the air takes from a sound, dB per metre (ISO 9613-1:1993, equations 3 to 5), at any frequency in Hz.
double airLoss_db_m(const Air& air, double frequency_hz);

/// The same at the octave bands.
Bands airLoss_db_m(const Air& air);

} // namespace stone
