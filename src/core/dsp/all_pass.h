// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <span>
#include <vector>

namespace stone
{

/// A delay that passes all frequencies alike and gives each another phase (M. R. Schroeder, J. Audio Eng. Soc. 10(3), 1962):
/// several one after another make a sound unlike itself without colouring it. Owns its memory; process() allocates nothing.
class AllPass
{
public:
    /// `delay`: frames, at least 1. What it has beyond a whole number is an all-pass of first order within it (J.-P. Thiran,
    /// IEEE Trans. Circuit Theory 18(6), 1971): its delay is exact far below half the rate. `gain`: how much comes back,
    /// below 1.
    AllPass(double delay, float gain) : gain_(gain)
    {
        constexpr double whole = 1e-6;
        double frames = std::max(std::round(delay), 1.0);
        if (std::abs(delay - frames) > whole && delay > 1.5) {
            frames = std::floor(delay - 0.5);
            const double rest = delay - frames;
            bend_ = static_cast<float>((1.0 - rest) / (1.0 + rest));
            bends_ = true;
        }
        line_.resize(static_cast<std::size_t>(frames));
    }

    void process(std::span<float> block) noexcept
    {
        // As far as the line goes no frame wants what another has put there.
        while (!block.empty()) {
            const std::size_t n = std::min(block.size(), line_.size() - at_);
            float* __restrict kept = line_.data() + at_;
            float* __restrict samples = block.data();
            if (bends_) {
                for (std::size_t i = 0; i < n; ++i) {
                    const float now = kept[i];
                    bent_ = bend_ * (now - bent_) + last_;
                    last_ = now;
                    kept[i] = bent_;
                }
            }
            for (std::size_t i = 0; i < n; ++i) {
                const float out = kept[i] - gain_ * samples[i];
                kept[i] = samples[i] + gain_ * out;
                samples[i] = out;
            }
            at_ = at_ + n == line_.size() ? 0 : at_ + n;
            block = block.subspan(n);
        }
    }

    void reset() noexcept
    {
        std::fill(line_.begin(), line_.end(), 0.0F);
        last_ = 0.0F;
        bent_ = 0.0F;
    }

private:
    std::vector<float> line_;
    std::size_t at_ = 0;
    float gain_;
    bool bends_ = false;
    float bend_ = 0.0F;
    float last_ = 0.0F; ///< that came out of the line
    float bent_ = 0.0F; ///< and of the rest of the delay
};

} // namespace stone
