// SPDX-License-Identifier: MPL-2.0
#include "engine/clap.h"

#include "dsp/state_variable_filter.h"
#include "project/chance.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>

namespace stone
{

namespace
{

std::vector<float> noise(std::size_t frames, const char* id)
{
    std::vector<float> made(frames);
    for (std::size_t i = 0; i < frames; ++i) {
        made[i] = static_cast<float>(2.0 * chance(0, id, "clap", i) - 1.0);
    }
    return made;
}

void fade(std::vector<float>& sound, double from_s, double halves_s, double rate)
{
    for (std::size_t i = 0; i < sound.size(); ++i) {
        const double t = static_cast<double>(i) / rate - from_s;
        sound[i] *= t < 0.0 ? 0.0F : static_cast<float>(std::exp2(-t / halves_s));
    }
}

void filter(std::vector<float>& sound, StateVariableFilter::Kind kind, double cutoff_hz, double rate)
{
    StateVariableFilter made;
    made.process(kind, sound, cutoff_hz, cutoff_hz, rate);
}

/// Two palms do not meet at once: three bursts within four milliseconds, the last the loudest.
std::vector<float> hands(double rate)
{
    const auto frames = static_cast<std::size_t>(0.06 * rate);
    std::vector<float> sum(frames);
    const double bursts[][2] = {{0.0, 0.5}, {0.0017, 0.6}, {0.0036, 1.0}};
    for (const auto& [from_s, level] : bursts) {
        std::vector<float> burst = noise(frames, "hands");
        fade(burst, from_s, 0.0016, rate);
        for (std::size_t i = 0; i < frames; ++i) {
            sum[i] += static_cast<float>(level) * burst[i];
        }
    }
    filter(sum, StateVariableFilter::Kind::highPass, 700.0, rate);
    filter(sum, StateVariableFilter::Kind::lowPass, 3'000.0, rate);
    return sum;
}

/// A pressure that falls from high to low in a millisecond and a half, with the noise of the skin tearing.
std::vector<float> balloon(double rate)
{
    constexpr double wave_s = 0.0015;
    std::vector<float> sum = noise(static_cast<std::size_t>(0.06 * rate), "balloon");
    fade(sum, 0.0, 0.0025, rate);
    for (std::size_t i = 0; i < sum.size(); ++i) {
        const double t = static_cast<double>(i) / rate;
        const double wave = t < wave_s ? 1.0 - 2.0 * t / wave_s : -std::exp2(-(t - wave_s) / 0.0006);
        sum[i] = 0.35F * sum[i] + static_cast<float>(wave);
    }
    return sum;
}

} // namespace

std::vector<float> clapSound(Clap clap, double rate)
{
    std::vector<float> sound = clap == Clap::hands ? hands(rate) : balloon(rate);
    float most = 1e-9F;
    for (const float sample : sound) {
        most = std::max(most, std::abs(sample));
    }
    for (float& sample : sound) {
        sample /= most;
    }
    return sound;
}

} // namespace stone
