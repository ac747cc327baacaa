// SPDX-License-Identifier: MPL-2.0
#include "dsp/true_peak_meter.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Two of the four phases; the others are the same backwards. Its table gives the order in which samples come, the latest
/// first.
constexpr std::array<std::array<float, TruePeakMeter::taps>, 2> phases{
    {{0.0017089843750F, 0.0109863281250F, -0.0196533203125F, 0.0332031250000F, -0.0594482421875F, 0.1373291015625F,
      0.9721679687500F, -0.1022949218750F, 0.0476074218750F, -0.0266113281250F, 0.0148925781250F, -0.0083007812500F},
     {-0.0291748046875F, 0.0292968750000F, -0.0517578125000F, 0.0891113281250F, -0.1665039062500F, 0.4650878906250F,
      0.7797851562500F, -0.2003173828125F, 0.1015625000000F, -0.0582275390625F, 0.0330810546875F, -0.0189208984375F}}};

/// The largest absolute value of a phase over a stretch, `samples` beginning with those before it.
template <bool backwards>
float largest(const float* samples, std::size_t frames, const std::array<float, TruePeakMeter::taps>& h)
{
    constexpr std::size_t taps = TruePeakMeter::taps;
    constexpr std::size_t lanes = 16;
    std::array<float, lanes> most{};
    std::size_t i = 0;
    for (; i + lanes <= frames; i += lanes) {
        std::array<float, lanes> sum{};
        for (std::size_t k = 0; k < taps; ++k) {
            const float weight = h[backwards ? taps - 1 - k : k];
            for (std::size_t lane = 0; lane < lanes; ++lane) {
                sum[lane] += weight * samples[i + lane + k];
            }
        }
        for (std::size_t lane = 0; lane < lanes; ++lane) {
            most[lane] = std::max(most[lane], std::abs(sum[lane]));
        }
    }
    float all = *std::max_element(most.begin(), most.end());
    for (; i < frames; ++i) {
        float sum = 0.0F;
        for (std::size_t k = 0; k < taps; ++k) {
            sum += h[backwards ? taps - 1 - k : k] * samples[i + k];
        }
        all = std::max(all, std::abs(sum));
    }
    return all;
}

} // namespace

void TruePeakMeter::add(std::span<const float> interleaved)
{
    const std::size_t frames = interleaved.size() / channels_;
    std::array<float, stretch + taps - 1> samples{};
    float most = 0.0F;
    for (std::size_t channel = 0; channel < channels_; ++channel) {
        auto& before = before_[channel];
        for (std::size_t first = 0; first < frames; first += stretch) {
            const std::size_t n = std::min(stretch, frames - first);
            std::copy(before.begin(), before.end(), samples.begin());
            for (std::size_t i = 0; i < n; ++i) {
                const float sample = interleaved[(first + i) * channels_ + channel];
                samples[taps - 1 + i] = sample;
                most = std::max(most, std::abs(sample));
            }
            for (const auto& phase : phases) {
                most = std::max({most, largest<false>(samples.data(), n, phase), largest<true>(samples.data(), n, phase)});
            }
            std::copy_n(samples.begin() + static_cast<std::ptrdiff_t>(n), before.size(), before.begin());
        }
    }
    peak_ = std::max(peak_, static_cast<double>(most));
}

} // namespace stone
