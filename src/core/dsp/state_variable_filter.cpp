// SPDX-License-Identifier: MPL-2.0
#include "dsp/state_variable_filter.h"

#include "dsp/trapezoid.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{
constexpr std::size_t subBlock = 32;
} // namespace

double butterworthLowPass(double frequency_hz, double cutoff_hz)
{
    return 1.0 / std::sqrt(1.0 + std::pow(frequency_hz / cutoff_hz, 4.0));
}

double butterworthHighPass(double frequency_hz, double cutoff_hz)
{
    return 1.0 / std::sqrt(1.0 + std::pow(cutoff_hz / frequency_hz, 4.0));
}

void StateVariableFilter::process(Kind kind, std::span<float> samples, double from_hz, double to_hz, double rate)
{
    const auto held = [&](double hz) { return std::clamp(hz, 10.0, 0.49 * rate); };
    const double start = std::log2(held(from_hz));
    const double octaves = std::log2(held(to_hz)) - start;
    const auto total = static_cast<double>(samples.size());
    constexpr auto damping = std::numbers::sqrt2_v<float>;
    // What stands still is set once for all of the block.
    const std::size_t most = octaves == 0.0 ? samples.size() : subBlock;
    for (std::size_t done = 0; done < samples.size(); done += most) {
        const std::size_t n = std::min(most, samples.size() - done);
        const double middle = (static_cast<double>(done) + static_cast<double>(n) / 2.0) / total;
        const auto g = static_cast<float>(std::tan(std::numbers::pi * std::exp2(start + octaves * middle) / rate));
        const Trapezoid filter(g, damping);
        for (float& sample : samples.subspan(done, n)) {
            const auto [band, low] = filter.step(sample, first_, second_);
            sample = kind == Kind::lowPass ? low : sample - damping * band - low;
        }
    }
}

} // namespace stone
