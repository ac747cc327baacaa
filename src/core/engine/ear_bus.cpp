// SPDX-License-Identifier: MPL-2.0
#include "engine/ear_bus.h"

#include "dsp/ramp.h"
#include "dsp/spectrum.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// What makes the corners of the bus unlike each other: delays of all-passes, milliseconds. Found by a search among random ones
/// for the set with which, in every octave band, one signal from any cap of the sphere comes to both ears with the power of a
/// point, within a decibel or so.
constexpr std::array<std::array<double, 4>, BinauralBus::speakers> unlike_ms{{{2.31, 1.42, 2.51, 5.90},
                                                                              {3.10, 4.36, 5.09, 1.48},
                                                                              {1.79, 5.32, 4.55, 1.74},
                                                                              {2.82, 5.43, 1.86, 2.53},
                                                                              {1.63, 3.01, 2.94, 4.45},
                                                                              {4.68, 1.83, 3.27, 5.90},
                                                                              {3.29, 5.85, 2.21, 4.67},
                                                                              {1.55, 4.11, 3.44, 1.31},
                                                                              {1.51, 5.06, 3.91, 1.84},
                                                                              {1.91, 4.79, 4.44, 5.28},
                                                                              {1.51, 1.65, 5.93, 3.78},
                                                                              {1.58, 5.29, 1.66, 5.56}}};
/// Whole frames at this rate, and as long at every other: what the corners have in common depends on a few microseconds.
constexpr double usualRate = 48'000.0;
constexpr float unlikeness = 0.6F;
/// By then what the all-passes still give is inaudible: -100 dB.
constexpr double unlikeTail_s = 0.15;

} // namespace

EarBus::EarBus(double rate)
    : transform_(rate), wait_(HeadFilters::baseFrames(rate)), history_(BinauralBus::channels * transform_.past()),
      filters_(2 * BinauralBus::channels * transform_.bins()),
      lasts_(static_cast<std::size_t>(unlikeTail_s * rate) / stepFrames + transform_.past() / stepFrames + 1)
{
    for (std::vector<float>& waiting : waiting_) {
        waiting.resize(wait_ + stepFrames);
    }
    for (const auto& delays_ms : unlike_ms) {
        unlike_.emplace_back();
        for (const double delay_ms : delays_ms) {
            unlike_.back().emplace_back(std::round(delay_ms * 1e-3 * usualRate) / usualRate * rate, unlikeness);
        }
    }
}

void EarBus::add(const HeadFilters& head, StepSamples* channels, EarSums& sums) noexcept
{
    const auto sounds = [](const StepSamples& channel) {
        return std::any_of(channel.begin(), channel.end(), [](float x) { return x != 0.0F; });
    };
    if (std::any_of(channels, channels + BinauralBus::channels, sounds)) {
        tail_ = lasts_;
    }
    if (tail_ == 0) {
        return;
    }
    --tail_;
    const bool first = head_ == 0;
    const bool another = head_ != head.id();
    head_ = head.id();
    for (std::size_t channel = 0; channel < BinauralBus::channels; ++channel) {
        if (channel < unlike_.size()) {
            for (AllPass& allPass : unlike_[channel]) {
                allPass.process(channels[channel]);
            }
        }
        const std::span<const Complex> x = transform_(history_.data() + channel * transform_.past(), channels[channel].data());
        for (std::size_t ear = 0; ear < 2; ++ear) {
            const auto filter = std::span(filters_).subspan((2 * channel + ear) * transform_.bins(), transform_.bins());
            const auto now = ear == 0 ? head.busLeft(channel) : head.busRight(channel);
            if (first) {
                std::copy(now.begin(), now.end(), filter.begin());
            }
            if (first || !another) {
                addFiltered(sums.still[ear], x, filter, 1.0F);
                continue;
            }
            sums.moves = true;
            addFiltered(sums.from[ear], x, filter, 1.0F);
            std::copy(now.begin(), now.end(), filter.begin());
            addFiltered(sums.to[ear], x, filter, 1.0F);
        }
    }
}

void EarBus::finish(const EarSums& sums, StepSamples& left, StepSamples& right) noexcept
{
    for (std::size_t ear = 0; ear < 2; ++ear) {
        StepSamples& out = ear == 0 ? left : right;
        std::vector<float>& waiting = waiting_[ear];
        std::copy(out.begin(), out.end(), waiting.begin() + static_cast<std::ptrdiff_t>(wait_));
        std::copy_n(waiting.begin(), stepFrames, out.begin());
        std::copy(waiting.end() - static_cast<std::ptrdiff_t>(wait_), waiting.end(), waiting.begin());
        addRamped(out, transform_.back(sums.still[ear]), 1.0F, 1.0F);
        if (sums.moves) {
            addRamped(out, transform_.back(sums.from[ear]), 1.0F, 0.0F);
            addRamped(out, transform_.back(sums.to[ear]), 0.0F, 1.0F);
        }
    }
}

} // namespace stone
