// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/spectra.h"

#include "dsp/fft.h"

#include <cmath>
#include <numbers>
#include <random>

namespace fixture
{

std::vector<float> whiteNoise(double seconds, int rate, unsigned seed, float gain)
{
    std::mt19937 random(seed);
    std::normal_distribution<float> normal(0.0F, gain);
    std::vector<float> samples(static_cast<std::size_t>(seconds * rate));
    for (float& sample : samples) {
        sample = normal(random);
    }
    return samples;
}

Octaves octaves_db(const std::vector<float>& interleaved, std::size_t channels, int rate, double from_s)
{
    constexpr std::size_t size = 1U << 15U;
    stone::RealFft fft(size);
    Octaves power{};
    const std::size_t frames = interleaved.size() / channels;
    for (std::size_t channel = 0; channel < channels; ++channel) {
        for (auto at = static_cast<std::size_t>(from_s * rate); at + size <= frames; at += size / 2) {
            for (std::size_t i = 0; i < size; ++i) {
                const double window =
                    0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(size));
                fft.samples()[i] = static_cast<float>(window) * interleaved[(at + i) * channels + channel];
            }
            fft.forward();
            for (std::size_t bin = 1; bin < fft.bins().size(); ++bin) {
                const double octave = std::log2(static_cast<double>(bin) * rate / static_cast<double>(size) / 62.5);
                const auto band = static_cast<int>(std::lround(octave));
                if (band >= 0 && band < static_cast<int>(power.size())) {
                    power[static_cast<std::size_t>(band)] += std::norm(fft.bins()[bin]);
                }
            }
        }
    }
    for (double& band : power) {
        band = 10.0 * std::log10(band + 1e-30);
    }
    return power;
}

} // namespace fixture
