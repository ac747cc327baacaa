// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"

#include <array>
#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// How the energy of an impulse response dies away in one band (ISO 3382-1). Times in seconds, none where the response does
/// not reach so far down.
struct Decay {
    /// What is left of the energy, dB, every DecayReport::every_s from the direct sound on; 0 at its beginning, not below -90.
    std::vector<float> left_db;
    std::optional<double> edt_s; ///< early decay time: by the first 10 dB
    std::optional<double> t20_s; ///< by -5 to -25 dB
    std::optional<double> t30_s; ///< by -5 to -35 dB
    double c50_db = 0.0;         ///< the first 50 ms over all that comes later; held to -60 to 60
    double level_db = -200.0;    ///< of all of it: the sum of the squared samples
};

struct DecayReport {
    static constexpr double every_s = 0.005;

    double begins_s = 0.0; ///< of the direct sound, in the response
    Decay all;             ///< without bands
    std::array<Decay, octaveBands_hz.size()> bands;
};

/// Takes an impulse response apart: octave bands by its spectrum, then M. R. Schroeder's backward integration (JASA 37, 1965).
/// The energies of the channels add. `interleaved`: whole frames.
DecayReport analyseDecay(std::span<const float> interleaved, std::size_t channels, double rate);

} // namespace stone
