// SPDX-License-Identifier: MPL-2.0
#include "engine/voice_stage.h"

#include "engine/voice_reader.h"
#include "spatial/panning.h"

#include <algorithm>

namespace stone
{

VoiceStage::VoiceStage(Layout layout, int rate, Containment& contained)
    : rate_(rate), fadeSteps_(stepsIn(fade_s, rate)),
      channels_(layout == Layout::binaural ? BinauralBus::first + BinauralBus::channels : channelsOf(layout)),
      contained_(contained), voices_(mostVoices),
      ears_(layout == Layout::binaural ? std::make_unique<EarConvolver>(rate) : nullptr)
{
    active_.reserve(mostVoices);
}

void VoiceStage::aim(Voice& voice, const VoiceGains& target) noexcept
{
    voice.order.target = target;
    float largest = 0.0F;
    float change = 0.0F;
    for (std::size_t channel = 0; channel < target.size(); ++channel) {
        largest = std::max({largest, voice.from[channel], target[channel]});
        change = std::max(change, std::abs(target[channel] - voice.from[channel]));
    }
    if (voice.rampSteps == 0) {
        voice.rampSteps = change > 0.5F * largest ? fadeSteps_ : 1;
    }
    const auto left = static_cast<float>(voice.rampSteps);
    for (std::size_t channel = 0; channel < target.size(); ++channel) {
        voice.to[channel] =
            voice.rampSteps == 1 ? target[channel] : voice.from[channel] + (target[channel] - voice.from[channel]) / left;
    }
}

void VoiceStage::accept(const VoiceOrder& order) noexcept
{
    Voice& voice = voices_[order.slot];
    if (!voice.active || voice.order.generation != order.generation) {
        if (!voice.active) {
            active_.push_back(order.slot);
        }
        voice = Voice{};
        voice.active = true;
        voice.from = order.fadeIn ? VoiceGains{} : order.target;
        keepFinite(voice.from);
    }
    const bool joins = voice.fresh && !order.fadeIn;
    if (voice.order.reflected.slot != order.reflected.slot) {
        voice.reflectedFrom = 0.0F;
    }
    voice.order = order;
    keepFinite(voice.order.target);
    keepFinite(std::span(&voice.order.reflected.gain, 1));
    voice.planned = serial_;
    aim(voice, voice.order.target);
    voice.sendTo.fill(0.0F);
    for (const VoiceSend& send : order.sends) {
        if (send.slot < mostRooms) {
            voice.sendTo[send.slot] = send.gain;
        }
    }
    keepFinite(voice.sendTo);
    if (joins) {
        voice.sendFrom = voice.sendTo;
        voice.reflectedFrom = voice.order.reflected.gain;
    }
    const auto any = [](const std::array<float, mostRooms>& gains) {
        return std::any_of(gains.begin(), gains.end(), [](float gain) { return gain != 0.0F; });
    };
    voice.sends = any(voice.sendTo) || any(voice.sendFrom) || order.reflected.slot < mostEchoing;
}

void VoiceStage::begin(const StepPlan* plan, StepMix& mix) noexcept
{
    ++serial_;
    mix.planned = plan != nullptr;
    if (plan != nullptr) {
        for (const VoiceOrder& order : plan->voices) {
            accept(order);
        }
        mix.roomOrders.assign(plan->rooms.begin(), plan->rooms.end());
        mix.echoOrders.assign(plan->echoes.begin(), plan->echoes.end());
        master_ = plan->master;
        head_ = plan->head;
    }
    mix.master = master_;
    mix.head = head_;
    for (const std::uint32_t slot : active_) {
        Voice& voice = voices_[slot];
        if (voice.planned == serial_) {
            continue;
        }
        voice.order.position += voice.order.rate * static_cast<double>(stepFrames);
        voice.order.envelope.advance(static_cast<double>(stepFrames));
        // Late: everything goes on as it was. On time but not ordered any more: it fades out.
        aim(voice, mix.planned ? VoiceGains{} : voice.order.target);
        if (mix.planned) {
            voice.sendTo.fill(0.0F);
            voice.order.reflected.gain = 0.0F;
        }
    }
}

void VoiceStage::filter(VoiceFilter& state, StateVariableFilter::Kind kind, bool closed, float cutoff_hz, bool fresh) noexcept
{
    if (!closed && !state.closed) {
        return;
    }
    const bool entering = closed && !state.closed;
    if (entering) {
        state.filter.reset();
        state.cutoff_hz = cutoff_hz;
    }
    const bool fading = closed != state.closed && !fresh;
    if (fading) {
        dry_ = filtered_;
    }
    const float to_hz = closed ? cutoff_hz : state.cutoff_hz;
    state.filter.process(kind, filtered_, static_cast<double>(state.cutoff_hz), static_cast<double>(to_hz), rate_);
    if (fading) {
        constexpr float slope = 1.0F / static_cast<float>(stepFrames);
        for (std::size_t i = 0; i < stepFrames; ++i) {
            const float t = slope * static_cast<float>(static_cast<int>(i));
            const float wet = entering ? t : 1.0F - t;
            filtered_[i] = dry_[i] + (filtered_[i] - dry_[i]) * wet;
        }
    }
    state.cutoff_hz = to_hz;
    state.closed = closed;
}

const float* VoiceStage::filtered(Voice& voice, const float* samples) noexcept
{
    // A cut-off that the rate cannot carry is none.
    const float openLow_hz = std::min(20'000.0F, static_cast<float>(highestBorder * rate_));
    constexpr float openHigh_hz = 20.0F;
    const VoiceOrder& order = voice.order;
    const bool low = order.lowPass_hz < openLow_hz;
    const bool high = order.highPass_hz > openHigh_hz;
    const bool shaped = isShaped(order.envelope, stepFrames);
    const bool effects = order.effects != nullptr && order.effects->any;
    if (voice.sends) {
        std::copy_n(samples, stepFrames, plain_.begin());
    }
    if (!low && !high && !order.banded && !voice.lowPass.closed && !voice.highPass.closed && !voice.banded && !shaped &&
        !effects && !voice.effectSettings.any) {
        return samples;
    }
    std::copy_n(samples, stepFrames, filtered_.begin());
    if (shaped) {
        shape(order.envelope, filtered_);
    }
    const bool effected = effects || voice.effectSettings.any; // also in the step in which they are switched off
    if (effected) {
        const EffectSettings target = effects ? *order.effects : EffectSettings{};
        voice.effects.process(filtered_, voice.fresh ? target : voice.effectSettings, target, order.envelope.begun,
                              order.envelope.pace, order.echo);
        voice.effectSettings = target;
    }
    if (voice.sends && (shaped || effected)) {
        plain_ = filtered_;
    }
    filter(voice.highPass, StateVariableFilter::Kind::highPass, high, order.highPass_hz, voice.fresh);
    filter(voice.lowPass, StateVariableFilter::Kind::lowPass, low, order.lowPass_hz, voice.fresh);
    if (order.banded || voice.banded) {
        const BandFilter::Settings target = order.banded ? order.losses : BandFilter::Settings{};
        if (!voice.banded) {
            voice.bands.reset();
        }
        voice.bands.process(filtered_, voice.fresh ? target : voice.losses, target, rate_);
        voice.losses = target;
        voice.banded = order.banded;
    }
    return filtered_.data();
}

void VoiceStage::send(const Voice& voice, StepMix& mix) noexcept
{
    for (std::size_t slot = 0; slot < mostRooms; ++slot) {
        if (voice.sendFrom[slot] != 0.0F || voice.sendTo[slot] != 0.0F) {
            mix.rooms[slot].add(plain_, voice.sendFrom[slot], voice.sendTo[slot]);
        }
    }
    if (const VoiceSend& reflected = voice.order.reflected; reflected.slot < mostEchoing) {
        mix.echoes[reflected.slot].add(plain_, voice.reflectedFrom, reflected.gain);
    }
}

/// What a voice made is no sound: it begins anew, from silence.
void VoiceStage::contain(Voice& voice) noexcept
{
    contained_.count(voice.order.slot);
    voice.lowPass.filter.reset();
    voice.highPass.filter.reset();
    voice.bands.reset();
    voice.effects = {};
    if (EchoLine* line = voice.order.echo) {
        std::fill(line->samples.begin(), line->samples.end(), 0.0F);
        line->dulled = 0.0F;
    }
    plain_.fill(0.0F);
    filtered_.fill(0.0F);
}

void VoiceStage::mix(StepMix& mix) noexcept
{
    for (std::size_t channel = 0; channel < channels_; ++channel) {
        mix.channels[channel].fill(0.0F);
    }
    for (Given& given : mix.rooms) {
        given.clear();
    }
    for (Given& given : mix.echoes) {
        given.clear();
    }
    if (ears_) {
        mix.ears.clear();
    }
    for (const std::uint32_t slot : active_) {
        Voice& voice = voices_[slot];
        const float* x = filtered(voice, readVoice(voice.order, scratch_));
        if (!allFinite(std::span(x, stepFrames)) || (voice.sends && !allFinite(plain_))) {
            contain(voice);
            x = filtered_.data();
        }
        if (voice.sends) {
            send(voice, mix);
        }
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            if (voice.from[channel] != 0.0F || voice.to[channel] != 0.0F) {
                addRamped(mix.channels[channel], std::span(x, stepFrames), voice.from[channel], voice.to[channel]);
            }
        }
        if (ears_ && voice.order.head != nullptr) {
            if (voice.from[headGain] != 0.0F || voice.to[headGain] != 0.0F) {
                ears_->add(voice.order, voice.fresh, x, voice.from[headGain], voice.to[headGain], mix.ears);
            } else {
                ears_->skip(slot, x);
            }
        }
        voice.fresh = false;
        end(voice);
    }
    std::erase_if(active_, [this](std::uint32_t slot) { return !voices_[slot].active; });
}

void VoiceStage::end(Voice& voice) const noexcept
{
    voice.from = voice.to;
    voice.sendFrom = voice.sendTo;
    voice.reflectedFrom = voice.order.reflected.gain;
    voice.rampSteps -= voice.rampSteps > 0 ? 1 : 0;
    if (voice.planned != serial_ && voice.to == VoiceGains{} && voice.order.target == VoiceGains{}) {
        voice.active = false;
    }
}

} // namespace stone
