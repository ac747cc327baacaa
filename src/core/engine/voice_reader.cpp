#include "engine/voice_reader.h"

#include <array>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <numbers>

namespace stone
{

namespace
{

constexpr std::size_t taps = 16;
constexpr std::int64_t tapsBefore = 7; ///< the first tap lies so many samples before the place
constexpr std::size_t phases = 128;    ///< twice as many would no longer fit into the first-level cache
constexpr double kaiserBeta = 8.0;

using Phase = std::array<float, taps>;

/// The sinc's values for each phase, and the way from each phase to the next.
struct SincTable {
    std::array<Phase, phases + 1> at;
    std::array<Phase, phases> step;

    SincTable()
    {
        for (std::size_t phase = 0; phase <= phases; ++phase) {
            std::array<double, taps> values{};
            double sum = 0.0;
            for (std::size_t tap = 0; tap < taps; ++tap) {
                const double x = static_cast<double>(tap) - static_cast<double>(tapsBefore) -
                                 static_cast<double>(phase) / static_cast<double>(phases);
                const double u = x / (static_cast<double>(taps) / 2.0);
                const double window = u * u < 1.0 ? std::cyl_bessel_i(0.0, kaiserBeta * std::sqrt(1.0 - u * u)) : 0.0;
                values[tap] = window * (x == 0.0 ? 1.0 : std::sin(std::numbers::pi * x) / (std::numbers::pi * x));
                sum += values[tap];
            }
            for (std::size_t tap = 0; tap < taps; ++tap) {
                at[phase][tap] = static_cast<float>(values[tap] / sum);
            }
        }
        for (std::size_t phase = 0; phase < phases; ++phase) {
            for (std::size_t tap = 0; tap < taps; ++tap) {
                step[phase][tap] = at[phase + 1][tap] - at[phase][tap];
            }
        }
    }
};

/// Made when the program starts, so that the audio thread finds it ready.
const SincTable table;

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

/// Four numbers side by side (an extension of GCC and Clang): the additions have one order, whatever the processor's
/// registers hold.
using Four = float __attribute__((vector_size(16)));

Four load(const float* from)
{
    Four four;
    std::memcpy(&four, from, sizeof four);
    return four;
}

float interpolate(const float* s, float rest)
{
    const float place = rest * static_cast<float>(phases);
    const auto phase = static_cast<std::size_t>(static_cast<int>(place));
    const float t = place - static_cast<float>(static_cast<int>(phase));
    const float* a = table.at[phase].data();
    const float* b = table.step[phase].data();
    Four even = load(s) * (load(a) + t * load(b));
    Four odd = load(s + 4) * (load(a + 4) + t * load(b + 4));
    even += load(s + 8) * (load(a + 8) + t * load(b + 8));
    odd += load(s + 12) * (load(a + 12) + t * load(b + 12));
    const Four sum = even + odd;
    return (sum[0] + sum[2]) + (sum[1] + sum[3]);
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
    const Places places(start - whole, order.rate);
    const std::int64_t last = base + Places::whole(places.at(out.size() - 1));
    const std::int64_t least = roundAgain ? static_cast<std::int64_t>(order.loopFrom) : 0;
    if (base - tapsBefore >= least &&
        last + static_cast<std::int64_t>(taps) - tapsBefore <= static_cast<std::int64_t>(order.frames)) {
        const float* first = order.samples + base - tapsBefore;
        for (std::size_t i = 0; i < out.size(); ++i) {
            const std::int64_t place = places.at(i);
            out[i] = interpolate(first + Places::whole(place), Places::rest(place));
        }
        return out.data();
    }
    Phase around;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const std::int64_t place = places.at(i);
        const std::int64_t index = base + Places::whole(place) - tapsBefore;
        for (std::size_t tap = 0; tap < taps; ++tap) {
            around[tap] = sound.at(index + static_cast<std::int64_t>(tap));
        }
        out[i] = interpolate(around.data(), Places::rest(place));
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
