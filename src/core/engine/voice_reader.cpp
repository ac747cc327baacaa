#include "engine/voice_reader.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// One sample of the endless sound that a buffer stands for.
float sampleAt(const VoiceOrder& order, std::int64_t index)
{
    const auto frames = static_cast<std::int64_t>(order.frames);
    if (index >= 0 && index < frames) {
        return order.samples[index];
    }
    if (!order.loop || index < 0) {
        return 0.0F;
    }
    return order.samples[index % frames];
}

float hermite(float before, float a, float b, float after, float t)
{
    const float c1 = 0.5F * (b - before);
    const float c2 = before - 2.5F * a + 2.0F * b - 0.5F * after;
    const float c3 = 0.5F * (after - before) + 1.5F * (a - b);
    return ((c3 * t + c2) * t + c1) * t + a;
}

/// The copy of a whole position: a block of samples, wrapped or cut where the sound ends.
const float* copyVoice(const VoiceOrder& order, std::int64_t first, std::span<float> out)
{
    const auto frames = static_cast<std::int64_t>(order.frames);
    const auto n = static_cast<std::int64_t>(out.size());
    const std::int64_t start = order.loop && first >= 0 ? first % frames : first;
    if (start >= 0 && start + n <= frames) {
        return order.samples + start;
    }
    for (std::int64_t i = 0; i < n; ++i) {
        out[static_cast<std::size_t>(i)] = sampleAt(order, start + i);
    }
    return out.data();
}

} // namespace

const float* readVoice(const VoiceOrder& order, std::size_t offset, std::span<float> out)
{
    const auto frames = static_cast<double>(order.frames);
    const bool roundAgain = order.loop && order.position >= frames;
    // Near the origin a double holds the place between samples best.
    const double start = roundAgain ? std::fmod(order.position, frames) : order.position;
    const double whole = std::floor(start);
    const auto base = static_cast<std::int64_t>(whole);
    if (order.rate == 1.0 && start == whole) {
        return copyVoice(order, base + static_cast<std::int64_t>(offset), out);
    }
    // Places count from the step's first frame in whatever piece they are asked for, so that they round the same way.
    const double within = start - whole;
    const auto placeOf = [&](std::size_t i) { return within + order.rate * static_cast<double>(offset + i); };
    const double last = whole + placeOf(out.size()) + 3.0;
    if (whole + placeOf(0) >= 1.0 && last < frames) {
        // Everything that is needed lies inside: no place needs to be looked at twice.
        const float* samples = order.samples + base;
        for (std::size_t i = 0; i < out.size(); ++i) {
            const double place = placeOf(i);
            const auto index = static_cast<std::int32_t>(place);
            const float* s = samples + index;
            out[i] = hermite(s[-1], s[0], s[1], s[2], static_cast<float>(place - index));
        }
        return out.data();
    }
    for (std::size_t i = 0; i < out.size(); ++i) {
        const double place = placeOf(i);
        const auto step = static_cast<std::int64_t>(place);
        const std::int64_t index = base + step;
        // A loop reads its own end before its start only once it has come round.
        const bool seam = roundAgain && index == 0;
        const float before = seam ? order.samples[order.frames - 1] : sampleAt(order, index - 1);
        out[i] = hermite(before, sampleAt(order, index), sampleAt(order, index + 1), sampleAt(order, index + 2),
                         static_cast<float>(place - static_cast<double>(step)));
    }
    return out.data();
}

} // namespace stone
