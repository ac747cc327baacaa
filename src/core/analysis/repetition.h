// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// How a sound that goes on and on repeats itself, measured on what it is rendered to.
struct Repetition {
    static constexpr double step_s = 0.1; ///< of what follows

    std::vector<double> level_db;  ///< against full scale, RMS; -120 for silence
    std::vector<double> likeness;  ///< with itself so many steps later: 1 the same, 0 unrelated, below 0 opposite
    double swing_db = 0.0;         ///< by how much its octave bands rise and fall: standard deviation, mean of the loud ones
    double density = 0.0;          ///< share of the time in which it is within 20 dB of its loudest tenth
    std::optional<double> after_s; ///< what comes again does so after this time; nothing: nothing comes again
    double likenessThere = 0.0;    ///< at after_s

    /// Whether somebody hears it: what repeats has to stand out from an even sound.
    bool audible() const { return after_s.has_value() && swing_db >= leastSwing_db; }

    /// A change of level of about a decibel is just noticed (H. Fastl, E. Zwicker, Psychoacoustics, 2007, 7.1); what only
    /// flutters by that is heard as even.
    static constexpr double leastSwing_db = 1.5;
    /// Less than this in common and nobody takes it for the same.
    static constexpr double leastLikeness = 0.5;
    /// What comes again sooner is a rhythm or a tone.
    static constexpr double soonest_s = 1.0;
};

/// Listens for repeats. The level in eight octave bands from 62.5 Hz up is taken every tenth of a second; their
/// fluctuations about their means are compared with themselves later (normalised autocorrelation of all bands together),
/// up to two thirds of the whole. Takes time in proportion to the square of the length: 4 minutes in about 0.1 s.
Repetition listenForRepeats(std::span<const float> mono, double rate);

} // namespace stone
