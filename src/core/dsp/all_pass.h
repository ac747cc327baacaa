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
        for (float& sample : block) {
            float& kept = line_[at_];
            const float out = kept - gain_ * sample;
            kept = sample + gain_ * out;
            sample = out;
            at_ = at_ + 1 == line_.size() ? 0 : at_ + 1;
        }
    }

    void reset() noexcept { std::fill(line_.begin(), line_.end(), 0.0F); }

private:
    std::vector<float> line_;
    std::size_t at_ = 0;
    float gain_;
};

} // namespace stone
