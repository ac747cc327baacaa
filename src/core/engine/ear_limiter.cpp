// SPDX-License-Identifier: MPL-2.0
#include "engine/ear_limiter.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double fall_s = 0.001; ///< from full to nothing
constexpr double rise_s = 0.15;  ///< in which the gain comes back by a factor of e

} // namespace

EarLimiter::EarLimiter(std::size_t channels, int rate)
    : channels_(channels), down_(static_cast<float>(1.0 / (fall_s * rate))),
      up_(static_cast<float>(std::exp(1.0 / (rise_s * rate))))
{
}

void EarLimiter::process(float* interleaved, std::size_t frames) noexcept
{
    float least = 1.0F;
    for (std::size_t done = 0; done < frames; done += stretch) {
        limit(interleaved + done * channels_, std::min(stretch, frames - done));
        least = std::min(least, gain_);
    }
    taken_db_.store(least < 1.0F ? 20.0F * std::log10(least) : 0.0F, std::memory_order_relaxed);
}

void EarLimiter::limit(float* interleaved, std::size_t frames) noexcept
{
    float loudest = 0.0F;
    for (std::size_t i = 0; i < frames * channels_; ++i) {
        loudest = std::max(loudest, std::abs(interleaved[i]));
    }
    if (loudest <= ceiling && gain_ >= 1.0F) {
        return;
    }
    // What each frame allows, and from behind what those that come allow before them.
    for (std::size_t frame = 0; frame < frames; ++frame) {
        float peak = 0.0F;
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            peak = std::max(peak, std::abs(interleaved[frame * channels_ + channel]));
        }
        gains_[frame] = peak > ceiling ? ceiling / peak : 1.0F;
    }
    float later = 1.0F;
    for (std::size_t frame = frames; frame-- > 0;) {
        later = std::min(gains_[frame], later + down_);
        gains_[frame] = later;
    }
    for (std::size_t frame = 0; frame < frames; ++frame) {
        gain_ = std::min({gains_[frame], gain_ * up_, 1.0F});
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            interleaved[frame * channels_ + channel] *= gain_;
        }
    }
}

} // namespace stone
