// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <array>
#include <cstddef>

namespace stone
{

/// A small loss in each octave band from 63 Hz to 8 kHz as a broadband gain and a shelf at each border between two bands, for
/// the loop of a reverb: second-order high shelves in state-variable form (A. Simper, "Linear Trapezoidal State Variable
/// Filter", 2013; at rest the Audio EQ Cookbook's high shelf with Q = 1/sqrt(2)). The shelves reach into each other's bands, so
/// their gains are found together. BandFilter is for losses of any steepness.
namespace gentle
{

constexpr std::size_t bands = 8;
constexpr std::size_t shelves = bands - 1;
using Levels_db = std::array<double, bands>;

/// The broadband gain and the gain of each shelf, as factors.
struct Settings {
    float gain = 1.0F;
    std::array<float, shelves> shelf{1, 1, 1, 1, 1, 1, 1};

    bool operator==(const Settings&) const = default;
};

/// The integrator gain of the shelf between a band and the next at a rate; 0 where the border lies beyond what the rate can
/// carry: that shelf does nothing.
double borderGain(std::size_t shelf, double rate);

/// A frequency below half the rate as the shelves see it: found once, asked for many settings.
class Place
{
public:
    Place() = default;
    Place(double frequency_hz, double rate);
    /// The response of settings there, dB. The analogue shelf of gain k at x times its border has the square k (1 + k x^4) / (k
    /// + x^4).
    double response_db(const Settings& settings) const;

private:
    std::array<double, shelves> powers_{}; ///< x^4 of each shelf, prewarped; 0 for those that do nothing
    std::size_t used_ = 0;                 ///< shelves that do something
};

/// Finds settings for a rate. Control thread. The response at the band centres is within 0.5 dB of the levels where
/// neighbouring bands differ by up to 10 dB; bands beyond what the rate can carry are left out.
class Designer
{
public:
    explicit Designer(double rate);
    Settings operator()(const Levels_db& levels) const;

private:
    std::array<Place, bands> centres_;
    std::size_t used_ = 1; ///< bands
    std::array<std::array<double, bands>, bands> inverse_;
};

} // namespace gentle

} // namespace stone
