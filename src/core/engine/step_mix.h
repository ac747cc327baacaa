// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/ramp.h"
#include "engine/ear_convolver.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <bit>
#include <cmath>
#include <cstdint>
#include <span>
#include <vector>

namespace stone
{

using StepSamples = std::array<float, stepFrames>;

/// What voices give to a room or to what reflects them, over one step. Most steps give most of them nothing.
class Given
{
public:
    void clear() { any_ = false; }
    void add(std::span<const float> samples, float from, float to)
    {
        if (!any_) {
            samples_.fill(0.0F);
            any_ = true;
        }
        addRamped(samples_, samples, from, to);
    }
    /// Silence where nothing was given.
    const StepSamples& samples() const
    {
        static constexpr StepSamples silence{};
        return any_ ? samples_ : silence;
    }

private:
    StepSamples samples_{};
    bool any_ = false;
};

/// A step between the two stages of the mixer: the sums of its voices and what they give to rooms and walls, and what was
/// ordered of those. Made once, in the mixer's constructor.
struct StepMix {
    std::uint64_t step = 0;
    bool planned = false; ///< otherwise its plan was late, and everything goes on as it was
    float master = 1.0F;  ///< at the end of the step
    std::array<StepSamples, mostChannels> channels{};
    std::array<Given, mostRooms> rooms{};    ///< by slot
    std::array<Given, mostEchoing> echoes{}; ///< by slot
    EarSums ears;                            ///< binaural only
    const HeadFilters* head = nullptr;       ///< binaural: of the newest plan
    std::vector<RoomOrder> roomOrders;
    std::vector<EchoOrder> echoOrders;
};

/// Whether every sample is a number: an exponent of ones alone is infinity or none. As whole numbers, so that the processor
/// looks at several at a time.
inline bool allFinite(std::span<const float> samples)
{
    constexpr std::uint32_t exponent = 0x7F800000U;
    std::uint32_t bad = 0;
    for (const float sample : samples) {
        bad |= (std::bit_cast<std::uint32_t>(sample) & exponent) == exponent ? 1U : 0U;
    }
    return bad == 0;
}

/// What a gain must not be is none.
inline void keepFinite(std::span<float> gains)
{
    for (float& gain : gains) {
        gain = std::isfinite(gain) ? gain : 0.0F;
    }
}

/// How often something was not a number, or infinite: it was thrown away and what made it was reset, so that nothing else
/// heard of it. Written by the mixer, read by anybody.
class Containment
{
public:
    /// `slot`: of the voice; mostVoices: it was a room, an echo or the sum.
    void count(std::uint32_t slot) noexcept
    {
        count_.fetch_add(1, std::memory_order_relaxed);
        last_.store(slot, std::memory_order_relaxed);
    }
    std::uint64_t count() const { return count_.load(std::memory_order_relaxed); }
    std::uint32_t last() const { return last_.load(std::memory_order_relaxed); }

private:
    std::atomic<std::uint64_t> count_{0};
    std::atomic<std::uint32_t> last_{0};
};

} // namespace stone
