// SPDX-License-Identifier: MPL-2.0
#include "engine/voice_reader.h"

#include "dsp/sinc_read.h"

#include <array>
#include <cmath>
#include <cstdint>

namespace stone
{

namespace
{

/// Reads samples of the endless sound that a buffer stands for.
class Endless
{
public:
    Endless(const VoiceOrder& order, bool roundAgain)
        : samples_(order.samples), frames_(static_cast<std::int64_t>(order.frames)),
          loopFrom_(static_cast<std::int64_t>(order.loopFrom)), loop_(order.loop), roundAgain_(roundAgain)
    {
    }

    float at(std::int64_t index) const
    {
        if (loop_ && (index >= frames_ || (roundAgain_ && index < loopFrom_))) {
            // A loop reads its own end before its start only once it has come round.
            const std::int64_t length = frames_ - loopFrom_;
            const std::int64_t place = (index - loopFrom_) % length;
            return samples_[loopFrom_ + (place < 0 ? place + length : place)];
        }
        return index >= 0 && index < frames_ ? samples_[index] : 0.0F;
    }

private:
    const float* samples_;
    std::int64_t frames_;
    std::int64_t loopFrom_;
    bool loop_;
    bool roundAgain_;
};

/// A place in a sound, or a way through it, as 32.32 fixed point.
std::int64_t toFixed(double frames)
{
    return std::llround(frames * 0x1p32);
}

/// The copy of a whole position: a block of samples, wrapped or cut where the sound ends.
const float* copyVoice(const VoiceOrder& order, const Endless& sound, std::int64_t first, std::span<float> out)
{
    const auto n = static_cast<std::int64_t>(out.size());
    if (first >= 0 && first + n <= static_cast<std::int64_t>(order.frames)) {
        return order.samples + first;
    }
    for (std::int64_t i = 0; i < n; ++i) {
        out[static_cast<std::size_t>(i)] = sound.at(first + i);
    }
    return out.data();
}

} // namespace

const float* readVoice(const VoiceOrder& order, std::span<float> out)
{
    const auto frames = static_cast<double>(order.frames);
    const auto loopFrom = static_cast<double>(order.loopFrom);
    const bool roundAgain = order.loop && order.position >= frames;
    // Near the origin a double holds the place between samples best.
    const double start = roundAgain ? loopFrom + std::fmod(order.position - loopFrom, frames - loopFrom) : order.position;
    const double whole = std::floor(start);
    const auto base = static_cast<std::int64_t>(whole);
    const Endless sound(order, roundAgain);
    if (order.rate == 1.0 && start == whole) {
        return copyVoice(order, sound, base, out);
    }
    const std::int64_t place = toFixed(start - whole); // counted from the step's first frame
    const std::int64_t step = toFixed(order.rate);
    const std::int64_t last = base + ((place + step * static_cast<std::int64_t>(out.size() - 1)) >> 32);
    const std::int64_t least = roundAgain ? static_cast<std::int64_t>(order.loopFrom) : 0;
    if (base - sincTapsBefore >= least &&
        last + static_cast<std::int64_t>(sincTaps) - sincTapsBefore <= static_cast<std::int64_t>(order.frames)) {
        readSinc(order.samples + base - sincTapsBefore, place, step, out);
        return out.data();
    }
    std::array<float, sincTaps> around;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const std::int64_t at = place + step * static_cast<std::int64_t>(i);
        const std::int64_t index = base + (at >> 32) - sincTapsBefore;
        for (std::size_t tap = 0; tap < sincTaps; ++tap) {
            around[tap] = sound.at(index + static_cast<std::int64_t>(tap));
        }
        readSinc(around.data(), at & 0xFFFFFFFF, 0, out.subspan(i, 1));
    }
    return out.data();
}

bool isShaped(const Envelope& envelope, std::size_t frames)
{
    const double length = envelope.pace * static_cast<double>(frames);
    return envelope.begun < envelope.fadeIn || envelope.begun < 0.0 || envelope.left - length < envelope.fadeOut;
}

void shape(const Envelope& envelope, std::span<float> samples)
{
    const auto gain = [](double left, double fade) {
        if (left < 0.0) {
            return 0.0F;
        }
        if (left >= fade) {
            return 1.0F;
        }
        const auto x = static_cast<float>(left / fade);
        return x * std::sqrt(3.0F - 2.0F * x);
    };
    Envelope now = envelope;
    for (float& sample : samples) {
        // The last frame of a piece lies a frame before its end.
        sample *= gain(now.begun, now.fadeIn) * gain(now.left - now.pace, now.fadeOut);
        now.advance(1.0);
    }
}

} // namespace stone
