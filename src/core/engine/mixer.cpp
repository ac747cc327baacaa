#include "engine/mixer.h"

#include "engine/voice_reader.h"

#include <algorithm>
#include <cmath>

#if defined(__SSE__)
#include <xmmintrin.h>
#endif

namespace stone
{

namespace
{

/// A change of more than 6 dB takes so many steps (21 ms at 48 kHz) rather than one.
constexpr std::uint32_t bigChangeSteps = 4;
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

/// sum[i] += x[i] * (the gain at frame `offset + i` of a ramp over a step). The gain is worked out from the frame's
/// place in the step, not summed up, so that it is the same however the step is cut.
void addRamped(float* sum, const float* x, std::size_t frames, float from, float to, std::size_t offset)
{
    const float slope = (to - from) / static_cast<float>(stepFrames);
    for (std::size_t i = 0; i < frames; ++i) {
        sum[i] += x[i] * (from + slope * static_cast<float>(static_cast<int>(offset + i)));
    }
}

} // namespace

Mixer::Mixer(Layout layout) : layout_(layout), channels_(channelsOf(layout)), tap_(tapSamples), voices_(mostVoices)
{
    active_.reserve(mostVoices);
    plans_.prepare([](StepPlan& plan) { plan.voices.reserve(mostVoices); });
}

void Mixer::aim(Voice& voice, const ChannelGains& target) noexcept
{
    voice.order.target = target;
    float largest = 0.0F;
    float change = 0.0F;
    for (std::size_t channel = 0; channel < mostChannels; ++channel) {
        largest = std::max({largest, voice.from[channel], target[channel]});
        change = std::max(change, std::abs(target[channel] - voice.from[channel]));
    }
    if (voice.rampSteps == 0) {
        voice.rampSteps = change > 0.5F * largest ? bigChangeSteps : 1;
    }
    const auto left = static_cast<float>(voice.rampSteps);
    for (std::size_t channel = 0; channel < mostChannels; ++channel) {
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
        voice.from = order.fadeIn ? ChannelGains{} : order.target;
    }
    voice.order = order;
    voice.planned = serial_;
    aim(voice, order.target);
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
        masterTo_ = plan->master;
        plans_.release();
        accepted_.store(now, std::memory_order_release);
    } else {
        late_.fetch_add(1, std::memory_order_relaxed);
    }
    for (const std::uint32_t slot : active_) {
        Voice& voice = voices_[slot];
        if (voice.planned == serial_) {
            continue;
        }
        voice.order.position += voice.order.rate * static_cast<double>(stepFrames);
        // Late: everything goes on as it was. On time but not ordered any more: it fades out.
        aim(voice, planned ? ChannelGains{} : voice.order.target);
    }
    meter_ = StepMeter{.step = now, .peak = {}, .squares = {}};
}

void Mixer::mix(std::size_t offset, std::size_t frames) noexcept
{
    for (std::size_t channel = 0; channel < channels_; ++channel) {
        std::fill_n(sums_[channel].begin(), frames, 0.0F);
    }
    for (const std::uint32_t slot : active_) {
        const Voice& voice = voices_[slot];
        const float* x = readVoice(voice.order, offset, std::span(scratch_.data(), frames));
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            if (voice.from[channel] != 0.0F || voice.to[channel] != 0.0F) {
                addRamped(sums_[channel].data(), x, frames, voice.from[channel], voice.to[channel], offset);
            }
        }
    }
}

void Mixer::endStep() noexcept
{
    for (const std::uint32_t slot : active_) {
        Voice& voice = voices_[slot];
        voice.from = voice.to;
        voice.rampSteps -= voice.rampSteps > 0 ? 1 : 0;
        if (voice.planned != serial_ && voice.to == ChannelGains{} && voice.order.target == ChannelGains{}) {
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
        }
        const std::size_t n = std::min(frames, stepFrames - offset_);
        mix(offset_, n);
        const float slope = (masterTo_ - masterFrom_) / static_cast<float>(stepFrames);
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            for (std::size_t i = 0; i < n; ++i) {
                const float gain = masterFrom_ + slope * static_cast<float>(static_cast<int>(offset_ + i));
                const float y = sums_[channel][i] * gain;
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
