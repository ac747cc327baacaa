// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/cost.h"
#include "engine/space_stage.h"
#include "engine/voice_stage.h"

#include <array>
#include <atomic>

namespace stone
{

/// What the mixer measured of its output over one step.
struct StepMeter {
    std::uint64_t step = 0;
    ChannelGains peak{};    ///< largest absolute sample
    ChannelGains squares{}; ///< sum of squared samples over stepFrames
};

/// Mixes plans into sound, a whole step at a time: a step's sound depends on nothing but its plan and the step before,
/// so that the device's block never matters. A step has two stages, its voices and what space makes of them; where there are
/// cores enough another thread sounds the voices of the steps to come (prepare()), and the bytes are the same. Owns nothing but
/// arrays that are made in its constructor.
///
/// process() belongs to the audio thread (or to the offline driver); everything else says who may call it.
class Mixer
{
public:
    Mixer(Layout layout, int rate);

    Layout layout() const { return layout_; }

    /// Control thread: where plans are handed in and what was played comes out. The tap drops what nobody fetches.
    PlanRing& plans() { return plans_; }
    const PlanRing& plans() const { return plans_; }
    SlotRing<StepMeter, 64>& meters() { return meters_; }
    SampleRing& tap() { return tap_; }

    /// The step that the next frame belongs to. Any thread.
    std::uint64_t step() const { return step_.load(std::memory_order_acquire); }
    /// How often a step began without its plan, and went on with what was playing. Any thread.
    std::uint64_t lateSteps() const { return lateSteps_.load(std::memory_order_relaxed); }

    /// What its stages took. Any thread.
    const StageTimes& times() const { return times_; }

    /// What was thrown away. Any thread.
    const Containment& contained() const { return contained_; }

    /// The step of the newest plan that was taken up in time. Any thread.
    std::uint64_t accepted() const { return accepted_.load(std::memory_order_acquire); }

    /// The step at which the first frame counts. Before the first process() or prepare() only.
    void startAt(std::uint64_t step);

    /// Audio thread: the next frames, channels interleaved. Any number.
    void process(float* interleaved, std::size_t frames) noexcept;

    /// How many steps can be prepared that have not been processed.
    static constexpr std::size_t mostPrepared = 4;
    /// Sounds the voices of the next step for which that was not done. One thread of whoever drives the mixer; never while
    /// mostPrepared of them wait. A step that process() finds unprepared it prepares itself: either it is left all of them, or
    /// none.
    void prepare() noexcept;

private:
    Layout layout_;
    std::size_t channels_;
    PlanRing plans_;
    SlotRing<StepMeter, 64> meters_;
    SampleRing tap_;
    Containment contained_;
    StageTimes times_;
    VoiceStage voices_;
    SpaceStage space_;
    SlotRing<StepMix, mostPrepared> mixes_;
    std::uint64_t next_ = 0; ///< step that is prepared next
    StepMix* mix_ = nullptr; ///< of the current step
    float masterFrom_ = 1.0F;
    std::size_t offset_ = 0; ///< frames of the current step that are done
    StepMeter meter_;
    std::atomic<std::uint64_t> step_{0};
    std::atomic<std::uint64_t> accepted_{0};
    std::atomic<std::uint64_t> lateSteps_{0};
};

} // namespace stone
