// SPDX-License-Identifier: MPL-2.0
#include "dsp/gentle_shelves.h"

#include "dsp/octave_bands.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone::gentle
{

namespace
{

constexpr int refinements = 10;
/// Of what is missing so much is made up for in one round: the shelves are not quite linear in dB.
constexpr double damping = 0.8;
constexpr double steepest_db = 40.0;

using Interaction = std::array<std::array<double, bands>, bands>;

/// By how much one more decibel of gain (row 0) and of each shelf changes the level at each band, near 0 dB; solved for
/// the way back: which changes make one band a decibel louder.
Interaction interactionAt(const std::array<Place, bands>& centres, std::size_t used)
{
    constexpr double probe_db = 6.0;
    Interaction a{};
    Interaction inverse{};
    for (std::size_t band = 0; band < used; ++band) {
        a[band][0] = 1.0;
        inverse[band][band] = 1.0;
        for (std::size_t shelf = 0; shelf + 1 < used; ++shelf) {
            Settings one;
            one.shelf[shelf] = static_cast<float>(std::pow(10.0, -probe_db / 20.0));
            a[band][shelf + 1] = -centres[band].response_db(one) / probe_db;
        }
    }
    // Gauss-Jordan; the rows grow towards the diagonal, so no pivots need to be looked for.
    for (std::size_t i = 0; i < used; ++i) {
        const double pivot = a[i][i];
        for (std::size_t k = 0; k < used; ++k) {
            a[i][k] /= pivot;
            inverse[i][k] /= pivot;
        }
        for (std::size_t row = 0; row < used; ++row) {
            const double factor = a[row][i];
            for (std::size_t k = 0; row != i && k < used; ++k) {
                a[row][k] -= factor * a[i][k];
                inverse[row][k] -= factor * inverse[i][k];
            }
        }
    }
    return inverse;
}

} // namespace

double borderGain(std::size_t shelf, double rate)
{
    const double border_hz = bandBorder_hz(shelf);
    return border_hz < highestBorder * rate ? std::tan(std::numbers::pi * border_hz / rate) : 0.0;
}

Place::Place(double frequency_hz, double rate)
{
    const double there = std::tan(std::numbers::pi * frequency_hz / rate);
    while (used_ < shelves && borderGain(used_, rate) > 0.0) {
        powers_[used_] = std::pow(there / borderGain(used_, rate), 4.0);
        ++used_;
    }
}

double Place::response_db(const Settings& settings) const
{
    double power = static_cast<double>(settings.gain) * static_cast<double>(settings.gain);
    for (std::size_t shelf = 0; shelf < used_; ++shelf) {
        const auto k = static_cast<double>(settings.shelf[shelf]);
        power *= k * (1.0 + k * powers_[shelf]) / (k + powers_[shelf]);
    }
    return 10.0 * std::log10(power);
}

Designer::Designer(double rate) : inverse_{}
{
    while (used_ < bands && borderGain(used_ - 1, rate) > 0.0) {
        ++used_;
    }
    for (std::size_t band = 0; band < used_; ++band) {
        centres_[band] = Place(bandCentre_hz(band), rate);
    }
    inverse_ = interactionAt(centres_, used_);
}

Settings Designer::operator()(const Levels_db& levels) const
{
    Levels_db settings_db{};
    Settings settings;
    for (int round = 0; round < refinements; ++round) {
        Levels_db missing{};
        for (std::size_t band = 0; band < used_; ++band) {
            missing[band] = levels[band] - centres_[band].response_db(settings);
        }
        for (std::size_t i = 0; i < used_; ++i) {
            for (std::size_t band = 0; band < used_; ++band) {
                settings_db[i] += damping * inverse_[i][band] * missing[band];
            }
        }
        for (std::size_t shelf = 0; shelf < shelves; ++shelf) {
            settings_db[shelf + 1] = std::clamp(settings_db[shelf + 1], -steepest_db, steepest_db);
        }
        settings.gain = static_cast<float>(std::pow(10.0, settings_db[0] / 20.0));
        for (std::size_t shelf = 0; shelf < shelves; ++shelf) {
            settings.shelf[shelf] = static_cast<float>(std::pow(10.0, settings_db[shelf + 1] / 20.0));
        }
    }
    return settings;
}

} // namespace stone::gentle
