// SPDX-License-Identifier: MPL-2.0
#include "engine/mixer.h"

#include "engine/flush_denormals.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Two seconds of two channels.
constexpr std::size_t tapSamples = 192'000;

} // namespace

Mixer::Mixer(Layout layout, int rate)
    : layout_(layout), channels_(channelsOf(layout)), tap_(tapSamples), voices_(layout, rate, contained_),
      space_(layout, rate, contained_)
{
    plans_.prepare([](StepPlan& plan) {
        plan.voices.reserve(mostVoices);
        plan.rooms.reserve(mostRooms);
        plan.echoes.reserve(mostEchoing);
    });
    mixes_.prepare([this](StepMix& mix) {
        mix.roomOrders.reserve(mostRooms);
        mix.echoOrders.reserve(mostEchoing);
        mix.ears.resize(voices_.bins());
    });
}

void Mixer::startAt(std::uint64_t step)
{
    next_ = step;
    step_.store(step, std::memory_order_release);
}

void Mixer::prepare() noexcept
{
    const FlushDenormals mode;
    const StageTimer timer(times_, CostStage::voices);
    StepMix& mix = *mixes_.free();
    mix.step = next_++;
    const StepPlan* plan = plans_.front();
    while (plan != nullptr && plan->step < mix.step) {
        plans_.release();
        plan = plans_.front();
    }
    if (plan != nullptr && plan->step == mix.step) {
        voices_.begin(plan, mix);
        plans_.release();
        accepted_.store(mix.step, std::memory_order_release);
    } else {
        voices_.begin(nullptr, mix);
        lateSteps_.fetch_add(1, std::memory_order_relaxed);
    }
    voices_.mix(mix);
    mixes_.publish();
}

void Mixer::process(float* interleaved, std::size_t frames) noexcept
{
    const FlushDenormals mode;
    while (frames > 0) {
        if (offset_ == 0) {
            if (mixes_.waiting() == 0) {
                prepare();
            }
            mix_ = mixes_.front();
            space_.mix(*mix_, times_);
            meter_ = StepMeter{.step = mix_->step, .peak = {}, .squares = {}};
        }
        const StageTimer timer(times_, CostStage::output);
        const std::size_t n = std::min(frames, stepFrames - offset_);
        const float slope = (mix_->master - masterFrom_) / static_cast<float>(stepFrames);
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            const float* sum = mix_->channels[channel].data() + offset_;
            for (std::size_t i = 0; i < n; ++i) {
                interleaved[i * channels_ + channel] = sum[i];
            }
        }
        // Loudness and takes are of what the project is, however loud somebody listens to it.
        tap_.write(std::span(interleaved, n * channels_));
        for (std::size_t channel = 0; channel < channels_; ++channel) {
            for (std::size_t i = 0; i < n; ++i) {
                const float gain = masterFrom_ + slope * static_cast<float>(static_cast<int>(offset_ + i));
                float& y = interleaved[i * channels_ + channel];
                y *= gain;
                meter_.peak[channel] = std::max(meter_.peak[channel], std::abs(y));
                meter_.squares[channel] += y * y;
            }
        }
        interleaved += n * channels_;
        frames -= n;
        offset_ += n;
        if (offset_ == stepFrames) {
            offset_ = 0;
            masterFrom_ = mix_->master;
            mixes_.release();
            if (StepMeter* slot = meters_.free()) {
                *slot = meter_;
                meters_.publish();
            }
            step_.store(step_.load(std::memory_order_relaxed) + 1, std::memory_order_release);
        }
    }
}

} // namespace stone
