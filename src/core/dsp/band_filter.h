#pragma once

#include <array>
#include <cstddef>
#include <span>

namespace stone
{

/// A loss in each octave band from 63 Hz to 8 kHz, put into effect by a broadband gain and a shelf at each border between
/// two bands: second-order high shelves in state-variable form (A. Simper, "Linear Trapezoidal State Variable Filter",
/// 2013; at rest the Audio EQ Cookbook's high shelf with Q = 1/sqrt(2)), stable while they move. The shelves reach into each
/// other's bands, so their gains are found together.
class BandFilter
{
public:
    static constexpr std::size_t bands = 8;
    using Levels_db = std::array<double, bands>;

    /// What the audio thread needs of a set of levels: the broadband gain and the gain of each shelf, as factors.
    struct Settings {
        float gain = 1.0F;
        std::array<float, bands - 1> shelves{1, 1, 1, 1, 1, 1, 1};

        bool operator==(const Settings&) const = default;
    };

    /// Finds settings for a rate. Control thread. The response at the band centres is within 0.5 dB of the levels where
    /// neighbouring bands differ by up to 10 dB.
    class Designer
    {
    public:
        explicit Designer(double rate);
        Settings operator()(const Levels_db& levels) const;

    private:
        double rate_;
        std::array<std::array<double, bands>, bands> inverse_;
    };

    /// The response of settings at a frequency, dB.
    static double response_db(const Settings& settings, double frequency_hz, double rate);

    /// Audio thread. Filters in place; the settings glide from one to the other over the block.
    void process(std::span<float> samples, const Settings& from, const Settings& to, double rate);

    void reset() { state_ = {}; }

private:
    struct State {
        float first = 0.0F;
        float second = 0.0F;
    };
    std::array<State, bands - 1> state_{};
};

} // namespace stone
