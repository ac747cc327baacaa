#include "engine/mixer.h"

#include "dsp/ramp.h"
#include "engine/voice_reader.h"
#include "spatial/panning.h"

#include <algorithm>
#include <bit>
#include <cmath>

#if defined(__SSE__)
#include <xmmintrin.h>
#endif

namespace stone
{

namespace
{

/// By then reflections that nobody orders any more have faded; see EchoTaps.
constexpr double echoFade_s = 0.267;
/// The mean square of a room's lines below which it is silent: -140 dB.
constexpr float silent = 1e-14F;
/// Two seconds of two channels.
constexpr std::size_t tapSamples = 192'000;

/// Lets the processor treat numbers too small to hear as zero while it mixes: they would cost a hundred times as much.
class FlushDenormals
{
public:
#if defined(__SSE__)
    FlushDenormals() : before_(_mm_getcsr())
    {
        _mm_setcsr(before_ | 0x8040U);
    }
    ~FlushDenormals()
    {
        _mm_setcsr(before_);
    }

private:
    unsigned before_;
#else
    FlushDenormals() = default;
#endif
public:
    FlushDenormals(const FlushDenormals&) = delete;
    FlushDenormals& operator=(const FlushDenormals&) = delete;
};

/// Whether every sample is a number: an exponent of ones alone is infinity or none. As whole numbers, so that the processor
/// looks at several at a time.
bool allFinite(std::span<const float> samples)
{
    constexpr std::uint32_t exponent = 0x7F800000U;
    std::uint32_t bad = 0;
    for (const float sample : samples) {
        bad |= (std::bit_cast<std::uint32_t>(sample) & exponent) == exponent ? 1U : 0U;
    }
    return bad == 0;
}

/// What a gain must not be is none.
void keepFinite(std::span<float> gains)
{
    for (float& gain : gains) {
        gain = std::isfinite(gain) ? gain : 0.0F;
    }
}

} // namespace

Mixer::Mixer(Layout layout, int rate)
    : layout_(layout), rate_(rate), fadeSteps_(stepsIn(fade_s, rate)), echoFadeSteps_(stepsIn(echoFade_s, rate)),
      channels_(channelsOf(layout)),
      sumChannels_(layout == Layout::binaural ? BinauralBus::first + BinauralBus::channels : channels_), tap_(tapSamples),
      voices_(mostVoices), ears_(layout == Layout::binaural ? std::make_unique<EarConvolver>(rate) : nullptr)
{
    active_.reserve(mostVoices);
    plans_.prepare([](StepPlan& plan) {
        plan.voices.reserve(mostVoices);
        plan.rooms.reserve(mostRooms);
        plan.echoes.reserve(mostEchoing);
    });
}

void Mixer::aim(Voice& voice, const VoiceGains& target) noexcept
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

void Mixer::accept(const VoiceOrder& order) noexcept
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

void Mixer::accept(const RoomOrder& order) noexcept
{
    Room& room = rooms_[order.slot];
    if (!room.active || room.order.generation != order.generation) {
        // It comes up from silence, whatever is in the doorway.
        room.around = {};
        room.window = {};
        room.bands.reset();
        room.quiet = 0;
        room.active = true;
        room.fresh = true;
    }
    room.order = order;
    for (ChannelGains& gains : room.order.around) {
        keepFinite(gains);
    }
    keepFinite(room.order.window);
    room.planned = serial_;
}

void Mixer::accept(const EchoOrder& order) noexcept
{
    echoes_[order.slot].order = order;
    echoes_[order.slot].idle = 0;
}

void Mixer::beginStep() noexcept
{
    ++serial_;
    const std::uint64_t now = step_.load(std::memory_order_relaxed);
    const StepPlan* plan = plans_.front();
    while (plan != nullptr && plan->step < now) {
        plans_.release();
        plan = plans_.front();
    }
    const bool planned = plan != nullptr && plan->step == now;
    if (planned) {
        for (const VoiceOrder& order : plan->voices) {
            accept(order);
        }
        for (const RoomOrder& order : plan->rooms) {
            accept(order);
        }
        for (Echo& echo : echoes_) {
            echo.order.count = 0;
            echo.idle = std::max<std::size_t>(echo.idle, 1);
        }
        for (const EchoOrder& order : plan->echoes) {
            accept(order);
        }
        masterTo_ = plan->master;
        head_ = plan->head;
        plans_.release();
        accepted_.store(now, std::memory_order_release);
    } else {
        lateSteps_.fetch_add(1, std::memory_order_relaxed);
    }
    for (const std::uint32_t slot : active_) {
        Voice& voice = voices_[slot];
        if (voice.planned == serial_) {
            continue;
        }
        voice.order.position += voice.order.rate * static_cast<double>(stepFrames);
        voice.order.envelope.advance(static_cast<double>(stepFrames));
        // Late: everything goes on as it was. On time but not ordered any more: it fades out.
        aim(voice, planned ? VoiceGains{} : voice.order.target);
        if (planned) {
            voice.sendTo.fill(0.0F);
            voice.order.reflected.gain = 0.0F;
        }
    }
    // What is not ordered any more goes on fading, whether the next plan is late or not.
    for (Echo& echo : echoes_) {
        if (echo.idle > 0 && ++echo.idle > echoFadeSteps_) {
            echo.order.line = nullptr;
        }
    }
    for (Room& room : rooms_) {
        if (room.active && planned && room.planned != serial_) {
            room.order.around = {};
            room.order.window = {};
        }
    }
    meter_ = StepMeter{.step = now, .peak = {}, .squares = {}};
}

void Mixer::filter(VoiceFilter& state, StateVariableFilter::Kind kind, bool closed, float cutoff_hz, bool fresh) noexcept
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

const float* Mixer::filtered(Voice& voice, const float* samples) noexcept
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

void Mixer::send(const Voice& voice) noexcept
{
    for (std::size_t slot = 0; slot < mostRooms; ++slot) {
        if (rooms_[slot].active && (voice.sendFrom[slot] != 0.0F || voice.sendTo[slot] != 0.0F)) {
            addRamped(rooms_[slot].taken, plain_, voice.sendFrom[slot], voice.sendTo[slot]);
        }
    }
    if (const VoiceSend& reflected = voice.order.reflected; reflected.slot < mostEchoing) {
        addRamped(echoes_[reflected.slot].taken, plain_, voice.reflectedFrom, reflected.gain);
    }
}

void Mixer::contain(std::uint32_t slot) noexcept
{
    contained_.fetch_add(1, std::memory_order_relaxed);
    lastContained_.store(slot, std::memory_order_relaxed);
}

/// What a voice made is no sound: it begins anew, from silence.
void Mixer::contain(Voice& voice) noexcept
{
    contain(voice.order.slot);
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

/// Whether the mix was all numbers so far; where it was not it is silence.
bool Mixer::containSums() noexcept
{
    const std::span<StepSamples> sums(sums_.data(), sumChannels_);
    if (std::all_of(sums.begin(), sums.end(), [](const StepSamples& sum) { return allFinite(sum); })) {
        return true;
    }
    contain(mostVoices);
    for (StepSamples& sum : sums) {
        sum.fill(0.0F);
    }
    return false;
}

void Mixer::reflect() noexcept
{
    bool any = false;
    for (Echo& echo : echoes_) {
        if (echo.order.line != nullptr) {
            echo.order.line->process(echo.taken, echo.order.all(), echo.order.losses, std::span(sums_.data(), sumChannels_));
            any = true;
        }
        echo.taken.fill(0.0F);
    }
    if (any && !containSums()) {
        for (Echo& echo : echoes_) {
            if (echo.order.line != nullptr) {
                echo.order.line->reset();
            }
        }
    }
}

/// Works out a room's outputs; false: it is silent, and sleeps until something goes in.
bool Mixer::ring(Room& room) noexcept
{
    const RoomOrder& order = room.order;
    const bool fed = std::any_of(room.taken.begin(), room.taken.end(), [](float sample) { return sample != 0.0F; });
    if (!order.responses.empty()) {
        const auto longest =
            static_cast<std::size_t>(order.responses.front().partitions() + order.responseDelay / stepFrames + 2);
        room.quiet = fed ? 0 : std::min(room.quiet + 1, longest);
        if (room.quiet == longest) {
            return false;
        }
        order.convolver->in(room.taken, order.responseDelay);
        for (std::size_t output = 0; output < order.responses.size(); ++output) {
            order.convolver->out(order.responses[output], late_[output]);
        }
        late_[LateNetwork::surround] = late_[0];
        return true;
    }
    // As long as anything may still be under way in a line.
    const auto longest = static_cast<std::size_t>(LateNetwork::longestLine_s * rate_ / static_cast<double>(stepFrames));
    room.quiet = fed || order.network->energy() > silent ? 0 : std::min(room.quiet + 1, longest);
    if (room.quiet == longest) {
        return false;
    }
    order.network->process(room.taken, *order.design, late_);
    return true;
}

/// What a room gives moves a quarter of what is missing in a step: a whole late field may come or go at once.
void Mixer::answer(Room& room) noexcept
{
    constexpr float share = 0.25F;
    constexpr float inaudible = 1e-6F;
    const auto follow = [](float from, float to) { return std::abs(to - from) < inaudible ? to : from + (to - from) * share; };
    const RoomOrder& order = room.order;
    bool rings = ring(room);
    room.taken.fill(0.0F);
    if (rings && !std::all_of(late_.begin(), late_.begin() + LateNetwork::surround + 1,
                              [](const StepSamples& output) { return allFinite(output); })) {
        contain(mostVoices);
        if (order.network != nullptr) {
            order.network->reset();
        } else {
            order.convolver->reset();
        }
        room.bands.reset();
        rings = false;
    }
    for (std::size_t output = 0; output < LateNetwork::surround; ++output) {
        for (std::size_t channel = 0; channel < sumChannels_; ++channel) {
            float& now = room.around[output][channel];
            const float from = now;
            const float to = follow(from, order.around[output][channel]);
            now = to;
            if (rings && (from != 0.0F || to != 0.0F)) {
                addRamped(sums_[channel], late_[output], from, to);
            }
        }
    }
    // Of most rooms nothing comes through openings.
    if (room.window != ChannelGains{} || order.window != ChannelGains{}) {
        StepSamples& window = late_[LateNetwork::surround];
        if (!rings) {
            window.fill(0.0F);
        }
        room.bands.process(window, room.fresh ? order.losses : room.losses, order.losses, rate_);
        for (std::size_t channel = 0; channel < sumChannels_; ++channel) {
            const float from = room.window[channel];
            const float to = follow(from, order.window[channel]);
            room.window[channel] = to;
            if (from != 0.0F || to != 0.0F) {
                addRamped(sums_[channel], window, from, to);
            }
        }
    }
    room.losses = order.losses;
    room.fresh = false;
    room.active = room.planned == serial_ || room.around != decltype(room.around){} || room.window != ChannelGains{};
}

void Mixer::mix() noexcept
{
    for (std::size_t channel = 0; channel < sumChannels_; ++channel) {
        sums_[channel].fill(0.0F);
    }
    if (ears_) {
        ears_->begin();
    }
    for (const std::uint32_t slot : active_) {
        Voice& voice = voices_[slot];
        const float* x = filtered(voice, readVoice(voice.order, scratch_));
        if (!allFinite(std::span(x, stepFrames)) || (voice.sends && !allFinite(plain_))) {
            contain(voice);
            x = filtered_.data();
        }
        if (voice.sends) {
            send(voice);
        }
        for (std::size_t channel = 0; channel < sumChannels_; ++channel) {
            if (voice.from[channel] != 0.0F || voice.to[channel] != 0.0F) {
                addRamped(sums_[channel], std::span(x, stepFrames), voice.from[channel], voice.to[channel]);
            }
        }
        if (ears_ && voice.order.head != nullptr) {
            if (voice.from[headGain] != 0.0F || voice.to[headGain] != 0.0F) {
                ears_->add(voice.order, voice.fresh, x, voice.from[headGain], voice.to[headGain]);
            } else {
                ears_->skip(slot, x);
            }
        }
        voice.fresh = false;
    }
    reflect();
    for (Room& room : rooms_) {
        if (room.active) {
            answer(room);
        }
    }
    containSums();
    if (ears_ && head_ != nullptr) {
        ears_->addBus(*head_, &sums_[BinauralBus::first]);
        ears_->finish(sums_[0], sums_[1]);
    }
}

void Mixer::endStep() noexcept
{
    for (const std::uint32_t slot : active_) {
        Voice& voice = voices_[slot];
        voice.from = voice.to;
        voice.sendFrom = voice.sendTo;
        voice.reflectedFrom = voice.order.reflected.gain;
        voice.rampSteps -= voice.rampSteps > 0 ? 1 : 0;
        if (voice.planned != serial_ && voice.to == VoiceGains{} && voice.order.target == VoiceGains{}) {
            voice.active = false;
        }
    }
    std::erase_if(active_, [this](std::uint32_t slot) { return !voices_[slot].active; });
    masterFrom_ = masterTo_;
    if (StepMeter* slot = meters_.free()) {
        *slot = meter_;
        meters_.publish();
    }
    step_.store(step_.load(std::memory_order_relaxed) + 1, std::memory_order_release);
}

void Mixer::process(float* interleaved, std::size_t frames) noexcept
{
    const FlushDenormals mode;
    while (frames > 0) {
        if (offset_ == 0) {
            beginStep();
            mix();
        }
        const std::size_t n = std::min(frames, stepFrames - offset_);
        const float slope = (masterTo_ - masterFrom_) / static_cast<float>(stepFrames);
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            for (std::size_t i = 0; i < n; ++i) {
                const float gain = masterFrom_ + slope * static_cast<float>(static_cast<int>(offset_ + i));
                const float y = sums_[channel][offset_ + i] * gain;
                interleaved[i * channels_ + channel] = y;
                meter_.peak[channel] = std::max(meter_.peak[channel], std::abs(y));
                meter_.squares[channel] += y * y;
            }
        }
        tap_.write(std::span(interleaved, n * channels_));
        interleaved += n * channels_;
        frames -= n;
        offset_ += n;
        if (offset_ == stepFrames) {
            offset_ = 0;
            endStep();
        }
    }
}

} // namespace stone
