#pragma once

#include "dsp/state_variable_filter.h"
#include "engine/ear_convolver.h"
#include "engine/step_plan.h"

#include <array>
#include <atomic>
#include <memory>
#include <vector>

namespace stone
{

/// What the mixer measured of its output over one step.
struct StepMeter {
    std::uint64_t step = 0;
    ChannelGains peak{};    ///< largest absolute sample
    ChannelGains squares{}; ///< sum of squared samples over stepFrames
};

/// Mixes plans into sound, a whole step at a time: a step's sound depends on nothing but its plan and the step before,
/// so that the device's block never matters. Owns nothing but arrays that are made in its constructor.
///
/// process() belongs to the audio thread (or to the offline driver); everything else says who may call it.
class Mixer
{
public:
    Mixer(Layout layout, int rate);

    Layout layout() const { return layout_; }

    /// Control thread: where plans are handed in and what was played comes out. The tap drops what nobody fetches.
    PlanRing& plans() { return plans_; }
    SlotRing<StepMeter, 64>& meters() { return meters_; }
    SampleRing& tap() { return tap_; }

    /// The step that the next frame belongs to. Any thread.
    std::uint64_t step() const { return step_.load(std::memory_order_acquire); }
    /// How often a step began without its plan, and went on with what was playing. Any thread.
    std::uint64_t lateSteps() const { return lateSteps_.load(std::memory_order_relaxed); }

    /// How often something in the mix was not a number, or infinite: it was thrown away and what made it was reset, so that
    /// nothing else heard of it. Any thread.
    std::uint64_t contained() const { return contained_.load(std::memory_order_relaxed); }
    /// The slot of the voice that was last; mostVoices: it was a room, an echo or the sum. Any thread.
    std::uint32_t lastContained() const { return lastContained_.load(std::memory_order_relaxed); }

    /// The step of the newest plan that was taken up in time. Any thread.
    std::uint64_t accepted() const { return accepted_.load(std::memory_order_acquire); }

    /// The step at which the first frame counts. Before the first process() only.
    void startAt(std::uint64_t step) { step_.store(step, std::memory_order_release); }

    /// Audio thread: the next frames, channels interleaved. Any number.
    void process(float* interleaved, std::size_t frames) noexcept;

private:
    using StepSamples = EarConvolver::StepSamples;

    /// A filter that is passed by while it is open: it fades in and out against the sound without it.
    struct VoiceFilter {
        StateVariableFilter filter;
        float cutoff_hz = 0.0F;
        bool closed = false;
    };

    struct Voice {
        VoiceOrder order;
        VoiceGains from{};
        VoiceGains to{};
        VoiceFilter lowPass;
        VoiceFilter highPass;
        SoundEffects effects;
        EffectSettings effectSettings; ///< with which it last sounded
        BandFilter bands;
        BandFilter::Settings losses;
        std::array<float, mostRooms> sendFrom{};
        std::array<float, mostRooms> sendTo{};
        float reflectedFrom = 0.0F;
        bool sends = false;          ///< to any room or reflection, in this step or the last
        std::uint32_t rampSteps = 0; ///< steps until the target is reached
        std::uint64_t planned = 0;   ///< serial of the step that last ordered it
        bool banded = false;
        bool fresh = true; ///< has not sounded yet
        bool active = false;
    };

    /// A room that sounds: it takes up what its voices give and hands it out late.
    struct Room {
        RoomOrder order;
        std::array<float, stepFrames> taken{}; ///< of this step's voices
        /// Gains at the end of the last step.
        std::array<ChannelGains, LateNetwork::surround> around{};
        ChannelGains window{};
        BandFilter bands;
        BandFilter::Settings losses;
        std::uint64_t planned = 0;
        std::size_t quiet = 0; ///< steps in which nothing went in and nothing was left
        bool fresh = true;
        bool active = false;
    };

    /// A sound that throws reflections.
    struct Echo {
        EchoOrder order;
        StepSamples taken{};  ///< of this step's voices
        std::size_t idle = 0; ///< steps without an order, in which it fades
    };

    void beginStep() noexcept;
    void accept(const VoiceOrder& order) noexcept;
    void accept(const RoomOrder& order) noexcept;
    void accept(const EchoOrder& order) noexcept;
    void send(const Voice& voice) noexcept;
    void reflect() noexcept;
    void answer(Room& room) noexcept;
    bool ring(Room& room) noexcept;
    void aim(Voice& voice, const VoiceGains& target) noexcept;
    void contain(std::uint32_t slot) noexcept;
    void contain(Voice& voice) noexcept;
    bool containSums() noexcept;
    void mix() noexcept;
    const float* filtered(Voice& voice, const float* samples) noexcept;
    void filter(VoiceFilter& state, StateVariableFilter::Kind kind, bool closed, float cutoff_hz, bool fresh) noexcept;
    void endStep() noexcept;

    Layout layout_;
    double rate_;
    std::uint32_t fadeSteps_;
    std::uint32_t echoFadeSteps_;
    std::size_t channels_;
    std::size_t sumChannels_; ///< of the mix; binaural has more than come out
    PlanRing plans_;
    SlotRing<StepMeter, 64> meters_;
    SampleRing tap_;
    std::vector<Voice> voices_;          ///< by slot
    std::vector<std::uint32_t> active_;  ///< slots in the order in which they are summed
    std::unique_ptr<EarConvolver> ears_; ///< binaural only
    const HeadFilters* head_ = nullptr;  ///< binaural: of the newest plan
    std::array<StepSamples, mostChannels> sums_{};
    StepSamples scratch_{};
    StepSamples filtered_{};
    StepSamples dry_{};
    StepSamples plain_{}; ///< a voice before what its way takes
    std::array<Room, mostRooms> rooms_;
    std::array<Echo, mostEchoing> echoes_;
    std::array<LateNetwork::Block, LateNetwork::outputs> late_{};
    float masterFrom_ = 1.0F;
    float masterTo_ = 1.0F;
    std::size_t offset_ = 0; ///< frames of the current step that are done
    StepMeter meter_;
    std::uint64_t serial_ = 0;
    std::atomic<std::uint64_t> step_{0};
    std::atomic<std::uint64_t> accepted_{0};
    std::atomic<std::uint64_t> lateSteps_{0};
    std::atomic<std::uint64_t> contained_{0};
    std::atomic<std::uint32_t> lastContained_{0};
};

} // namespace stone
