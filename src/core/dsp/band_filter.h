// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/octave_bands.h"

#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace stone
{

/// A loss in each octave band from 63 Hz to 8 kHz, put into effect by a broadband gain and a shelf at each border between two
/// bands, and one above the last, where a fall goes on as it came. Each shelf is of eighth order, four sections with the
/// angles of a Butterworth filter, so that it has done its work within an octave and bands can lie 30 dB apart; in
/// state-variable form (A. Simper, "Linear Trapezoidal State Variable Filter", 2013), stable while it moves.
///
/// The sections stand in a row: each wants what the one before gives. Each therefore works a frame later than the one before
/// it, and all of them at once. See decision 0033.
class BandFilter
{
public:
    static constexpr std::size_t bands = octaveBandCount;
    static constexpr std::size_t shelves = bands; ///< the last one above the highest band
    static constexpr std::size_t sections = 4;    ///< of a shelf
    /// One over the quality of a shelf's sections: the angles of a Butterworth filter's poles.
    static constexpr std::array<double, sections> dampings{1.9615705608064609, 1.6629392246050905, 1.1111404660392044,
                                                           0.39018064403225655};
    /// Gain of an integrator of a shelf, tan(pi border / rate); 0: its border lies beyond what the rate carries.
    static double borderGain(std::size_t shelf, double rate);

    using Levels_db = std::array<double, bands>;

    /// Bands beside each other lie at most so far apart; see eased().
    static constexpr double steepest_db = 30.0;
    /// What lies so far below the loudest band is as good as nothing.
    static constexpr double deepest_db = 90.0;

    /// Levels of which none lies more than steepest_db below a neighbour, nor deepest_db below the loudest: what is lower is
    /// raised. What does not fall that steeply stays as it is.
    static Levels_db eased(Levels_db levels);

    /// What the audio thread needs of a set of levels: the broadband gain, and of each shelf the 16th root of its gain.
    struct Settings {
        float gain = 1.0F;
        std::array<float, shelves> root{1, 1, 1, 1, 1, 1, 1, 1};

        bool operator==(const Settings&) const = default;
    };

    /// Finds settings for a rate. Control thread; makes its table once. Eases the levels; the response at the centres of the
    /// bands that the rate carries is within 0.1 dB of what that gives.
    class Designer
    {
    public:
        explicit Designer(double rate);
        Settings operator()(const Levels_db& levels) const;

    private:
        /// By a shelf's gain in whole decibels, what it does at each band, and an octave above the last.
        using Effects = std::array<double, bands + 1>;
        Effects effectOf(std::size_t shelf, double gain_db, Effects& slope) const;

        std::size_t used_ = 0; ///< shelves whose border the rate carries
        std::array<std::vector<Effects>, shelves> table_;
    };

    /// The response of settings at a frequency below half the rate, dB.
    static double response_db(const Settings& settings, double frequency_hz, double rate);

    /// Audio thread. Filters in place; the settings glide from one to the other over the block. The rate is the same each time.
    void process(std::span<float> samples, const Settings& from, const Settings& to, double rate);

    void reset() { states_ = {}; }

private:
    static constexpr std::size_t lanes = sections * shelves;

    /// What the sections remember, one beside the other.
    struct States {
        alignas(32) std::array<float, lanes> first{};
        alignas(32) std::array<float, lanes> second{};
    };

    States states_;
    std::array<float, shelves> border_{}; ///< integrator gains at the shelves' borders
    double rate_ = 0.0;                   ///< for which they are
};

} // namespace stone
