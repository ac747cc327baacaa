// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/state_variable_filter.h"
#include "engine/step_mix.h"

#include <memory>
#include <vector>

namespace stone
{

/// The first stage of a step: reads, filters and sums its voices, and collects what they give to rooms and walls. Owns nothing
/// but arrays that are made in its constructor. All of it belongs to one thread at a time and never waits.
class VoiceStage
{
public:
    VoiceStage(Layout layout, int rate, Containment& contained);

    /// Takes up what is ordered for a step; null: the plan is late, and everything goes on as it was.
    void begin(const StepPlan* plan, StepMix& mix) noexcept;
    /// Sounds a step that was begun.
    void mix(StepMix& mix) noexcept;

    /// Of the spectra of a StepMix; 0: it needs none.
    std::size_t bins() const { return ears_ ? ears_->bins() : 0; }

private:
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

    void accept(const VoiceOrder& order) noexcept;
    void aim(Voice& voice, const VoiceGains& target) noexcept;
    const float* filtered(Voice& voice, const float* samples) noexcept;
    void filter(VoiceFilter& state, StateVariableFilter::Kind kind, bool closed, float cutoff_hz, bool fresh) noexcept;
    void send(const Voice& voice, StepMix& mix) noexcept;
    void contain(Voice& voice) noexcept;
    void end(Voice& voice) const noexcept;

    double rate_;
    std::uint32_t fadeSteps_;
    std::size_t channels_; ///< of the mix; binaural has more than come out
    Containment& contained_;
    std::vector<Voice> voices_;          ///< by slot
    std::vector<std::uint32_t> active_;  ///< slots in the order in which they are summed
    std::unique_ptr<EarConvolver> ears_; ///< binaural only
    StepSamples scratch_{};
    StepSamples filtered_{};
    StepSamples dry_{};
    StepSamples plain_{}; ///< a voice before what its way takes
    float master_ = 1.0F;
    const HeadFilters* head_ = nullptr;
    std::uint64_t serial_ = 0;
};

} // namespace stone
