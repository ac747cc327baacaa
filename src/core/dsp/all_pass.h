#pragma once

#include <algorithm>
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
    /// `delay`: frames, at least 1. `gain`: how much comes back, below 1.
    AllPass(std::size_t delay, float gain) : line_(std::max<std::size_t>(delay, 1)), gain_(gain) {}

    void process(std::span<float> block) noexcept
    {
        // As far as the line goes no frame wants what another has put there.
        while (!block.empty()) {
            const std::size_t n = std::min(block.size(), line_.size() - at_);
            float* __restrict kept = line_.data() + at_;
            float* __restrict samples = block.data();
            for (std::size_t i = 0; i < n; ++i) {
                const float out = kept[i] - gain_ * samples[i];
                kept[i] = samples[i] + gain_ * out;
                samples[i] = out;
            }
            at_ = at_ + n == line_.size() ? 0 : at_ + n;
            block = block.subspan(n);
        }
    }

    void reset() noexcept { std::fill(line_.begin(), line_.end(), 0.0F); }

private:
    std::vector<float> line_;
    std::size_t at_ = 0;
    float gain_;
};

} // namespace stone
