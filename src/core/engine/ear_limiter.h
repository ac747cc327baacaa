// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <array>
#include <atomic>
#include <cstddef>

namespace stone
{

/// Keeps what somebody listens to live from going over full scale; renders never pass through it. What stays below its ceiling
/// comes out as it went in, sample by sample. What goes over is turned down just before, as far as the block that it is in
/// reaches back, and comes up again slowly. All channels alike, so that nothing moves. Adds no delay.
///
/// process() belongs to the audio thread; allocates nothing.
class EarLimiter
{
public:
    EarLimiter(std::size_t channels, int rate);

    /// Interleaved frames, any number.
    void process(float* interleaved, std::size_t frames) noexcept;

    /// By how much it turns down just now, dB, 0 or below. Any thread.
    float taken_db() const { return taken_db_.load(std::memory_order_relaxed); }

    /// Nothing gets beyond it: -0.1 dB.
    static constexpr float ceiling = 0.98855F;

private:
    void limit(float* interleaved, std::size_t frames) noexcept;

    static constexpr std::size_t stretch = 1024; ///< frames looked at together
    std::size_t channels_;
    float down_; ///< by which the gain falls in a frame at most, where there is time
    float up_;   ///< and by which factor it rises
    float gain_ = 1.0F;
    std::array<float, stretch> gains_{};
    std::atomic<float> taken_db_{0.0F};
};

} // namespace stone
