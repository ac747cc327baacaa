// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/step_plan.h"
#include "project/sound.h"

#include <array>
#include <atomic>
#include <chrono>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

/// What things cost in processor time: the clock is read around stages, and the time of the voices' stage is shared out by
/// counted work, so that the parts make up the whole.
namespace stone
{

/// Parts of a step that are timed.
enum class CostStage : std::uint8_t {
    deciding, ///< what goes on in the level and what is heard of it; control thread
    ordering, ///< what plays where, with what comes from the disk; control thread
    voices,   ///< reading, filtering, placing; audio thread, as all that follows
    reflections,
    rooms,
    ears, ///< what is heard through the head in common
    output
};
constexpr std::size_t costStages = 7;
const char* nameOf(CostStage stage);

/// Kinds of work on a voice.
enum class Work : std::uint8_t { reading, filters, walls, equaliser, saturation, tremolo, echo, placing };
constexpr std::size_t workKinds = 8;
const char* nameOf(Work work);

/// Time spent in each stage since the beginning. Any thread adds and reads.
class StageTimes
{
public:
    void add(CostStage stage, std::uint64_t ns) noexcept
    {
        ns_[static_cast<std::size_t>(stage)].fetch_add(ns, std::memory_order_relaxed);
    }
    double seconds(CostStage stage) const
    {
        return 1e-9 * static_cast<double>(ns_[static_cast<std::size_t>(stage)].load(std::memory_order_relaxed));
    }

private:
    std::array<std::atomic<std::uint64_t>, costStages> ns_{};
};

/// Times a stretch of code as part of a stage.
class StageTimer
{
public:
    StageTimer(StageTimes& times, CostStage stage) noexcept : times_(times), stage_(stage), from_(Clock::now()) {}
    ~StageTimer() { times_.add(stage_, sinceThen()); }
    StageTimer(const StageTimer&) = delete;
    StageTimer& operator=(const StageTimer&) = delete;

    /// Goes over to another stage.
    void next(CostStage stage) noexcept
    {
        const Clock::time_point now = Clock::now();
        times_.add(stage_, nanoseconds(now - from_));
        stage_ = stage;
        from_ = now;
    }

private:
    using Clock = std::chrono::steady_clock;

    static std::uint64_t nanoseconds(Clock::duration time)
    {
        return static_cast<std::uint64_t>(std::chrono::duration_cast<std::chrono::nanoseconds>(time).count());
    }
    std::uint64_t sinceThen() const noexcept { return nanoseconds(Clock::now() - from_); }

    StageTimes& times_;
    CostStage stage_;
    Clock::time_point from_;
};

/// What a stretch of time has cost. Seconds of processor time; divided by span_s they are shares of a core.
struct Costs {
    double span_s = 0.0; ///< of sound
    std::array<double, costStages> stages_s{};
    std::array<double, workKinds> works_s{}; ///< of CostStage::voices; together exactly as much
    struct OfSound {
        SoundId sound;
        double seconds = 0.0; ///< of CostStage::voices; of all sounds together exactly as much
        double voices = 0.0;  ///< in the mean
    };
    std::vector<OfSound> sounds; ///< that had voices

    double of(CostStage stage) const { return stages_s[static_cast<std::size_t>(stage)]; }
    double of(Work work) const { return works_s[static_cast<std::size_t>(work)]; }
    double total_s() const;
};

/// Counts the work of voices by sound and by kind, from what is ordered. Control thread.
class WorkTally
{
public:
    /// A voice of a step. `playable`: which sound.
    void add(std::uint32_t playable, const VoiceOrder& order, const Effects& effects);
    /// A step has been counted.
    void endStep() { ++steps_; }

    std::uint64_t steps() const { return steps_; }
    /// Shares out what the stages took since this was asked last. `times`: of all that do any of them; `sounds`: by playable.
    Costs take(std::span<const StageTimes* const> times, double rate, std::span<const SoundId> sounds);
    /// Playables have other numbers from now on: what was counted and not taken is forgotten.
    void forget();

private:
    std::vector<double> units_;  ///< by playable
    std::vector<double> voices_; ///< likewise
    std::array<double, workKinds> works_{};
    std::uint64_t steps_ = 0;
    std::array<double, costStages> before_s_{};
};

} // namespace stone
