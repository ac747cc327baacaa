#include "engine/voice_reader.h"

#include <array>
#include <cmath>
#include <cstdint>

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

/// Places in a sound as 32.32 fixed point, counted from the step's first frame: exact sums, so the same in whatever
/// pieces they are asked for, and whole number and rest are had by a shift instead of a conversion.
class Places
{
public:
    Places(double within, double rate) : first_(toFixed(within)), step_(toFixed(rate)) {}

    std::int64_t at(std::size_t i) const { return first_ + step_ * static_cast<std::int64_t>(i); }
    static std::int32_t whole(std::int64_t place) { return static_cast<std::int32_t>(place >> 32); }
    static float rest(std::int64_t place)
    {
        // 24 bits are what a float holds.
        return static_cast<float>(static_cast<std::int32_t>((place & 0xFFFFFFFF) >> 8)) * 0x1p-24F;
    }

private:
    static std::int64_t toFixed(double x) { return std::llround(x * 0x1p32); }

    std::int64_t first_;
    std::int64_t step_;
};

/// All samples that are needed lie inside: fetch them into rows, then one loop of plain arithmetic over the rows, which
/// the compiler turns into vector code. Measured against one loop that does both: bench_mixing, mixerPitched.
void interpolateInside(const float* samples, const Places& places, std::size_t offset, std::span<float> out)
{
    std::array<std::array<float, stepFrames>, 4> rows;
    std::array<float, stepFrames> rests;
    const std::size_t n = out.size();
    for (std::size_t i = 0; i < n; ++i) {
        const std::int64_t place = places.at(offset + i);
        const float* s = samples + Places::whole(place);
        rests[i] = Places::rest(place);
        rows[0][i] = s[-1];
        rows[1][i] = s[0];
        rows[2][i] = s[1];
        rows[3][i] = s[2];
    }
    for (std::size_t i = 0; i < n; ++i) {
        out[i] = hermite(rows[0][i], rows[1][i], rows[2][i], rows[3][i], rests[i]);
    }
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
    const Places places(start - whole, order.rate);
    const auto lastWhole = base + Places::whole(places.at(offset + out.size()));
    if (base + Places::whole(places.at(offset)) >= 1 && lastWhole + 3 < static_cast<std::int64_t>(order.frames)) {
        interpolateInside(order.samples + base, places, offset, out);
        return out.data();
    }
    for (std::size_t i = 0; i < out.size(); ++i) {
        const std::int64_t place = places.at(offset + i);
        const std::int64_t index = base + Places::whole(place);
        // A loop reads its own end before its start only once it has come round.
        const bool seam = roundAgain && index == 0;
        const float before = seam ? order.samples[order.frames - 1] : sampleAt(order, index - 1);
        out[i] = hermite(before, sampleAt(order, index), sampleAt(order, index + 1), sampleAt(order, index + 2),
                         Places::rest(place));
    }
    return out.data();
}

} // namespace stone
