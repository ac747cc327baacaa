// SPDX-License-Identifier: MPL-2.0
#include "engine/sound_effects.h"

#include "dsp/trapezoid.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace stone
{

namespace
{

constexpr std::size_t subBlock = 32;
constexpr double longestEcho_s = 0.5;
constexpr double tail_db = 60.0;
constexpr double open_hz = 20'000.0;

double prewarped(double hz, double rate)
{
    return std::tan(std::numbers::pi * std::min(hz, 0.49 * rate) / rate);
}

EffectSettings::Band band(double g, double k, double input, double band, double low)
{
    return {static_cast<float>(g), static_cast<float>(k), static_cast<float>(input), static_cast<float>(band),
            static_cast<float>(low)};
}

/// The shelves and the bell of the Audio EQ Cookbook in Simper's form, A the root of the gain.
void design(const Equaliser& e, double rate, std::array<EffectSettings::Band, 3>& bands)
{
    constexpr double width = std::numbers::sqrt2;
    const double low = std::pow(10.0, e.low_db / 40.0);
    const double middle = std::pow(10.0, e.middle_db / 40.0);
    const double high = std::pow(10.0, e.high_db / 40.0);
    bands[0] = band(prewarped(e.low_hz, rate) / std::sqrt(low), width, 1.0, width * (low - 1.0), low * low - 1.0);
    const double k = 1.0 / (e.middleQ * middle);
    bands[1] = band(prewarped(e.middle_hz, rate), k, 1.0, k * (middle * middle - 1.0), 0.0);
    bands[2] =
        band(prewarped(e.high_hz, rate) * std::sqrt(high), width, high * high, width * (1.0 - high) * high, 1.0 - high * high);
}

float mixed(float from, float to, float t)
{
    return from + (to - from) * t;
}

/// The share of a block that has passed at a frame of it.
float passed(std::size_t i, std::size_t size)
{
    return static_cast<float>(static_cast<int>(i)) / static_cast<float>(static_cast<int>(size));
}

} // namespace

EffectSettings designEffects(const Effects& effects, double rate)
{
    EffectSettings settings;
    settings.any = effects.any();
    if (effects.equaliser.on) {
        design(effects.equaliser, rate, settings.bands);
    }
    if (effects.saturation.on) {
        settings.drive = static_cast<float>(std::pow(10.0, effects.saturation.drive_db / 20.0));
        settings.bent = 1.0F;
    }
    if (effects.tremolo.on) {
        settings.tremoloStep = static_cast<float>(effects.tremolo.rate_hz / rate);
        settings.tremoloDepth = static_cast<float>(effects.tremolo.depth);
    }
    if (effects.echo.on) {
        const double frames = std::clamp(effects.echo.delay_s, 0.0, longestEcho_s) * rate;
        settings.echoFrames = static_cast<std::size_t>(std::max(std::lround(frames), 1L));
        settings.echoGain = static_cast<float>(std::pow(10.0, effects.echo.level_db / 20.0));
        if (effects.echo.dull_hz < open_hz) {
            settings.echoSharp = static_cast<float>(1.0 - std::exp(-2.0 * std::numbers::pi * effects.echo.dull_hz / rate));
        }
    }
    return settings;
}

double effectTail_s(const Effects& effects)
{
    return effects.echo.on ? effects.echo.delay_s * std::ceil(tail_db / -effects.echo.level_db) : 0.0;
}

EchoLine::EchoLine(double rate) : samples(static_cast<std::size_t>(std::ceil(longestEcho_s * rate)) + 1, 0.0F)
{
}

void SoundEffects::equalise(std::span<float> samples, const EffectSettings& from, const EffectSettings& to)
{
    for (std::size_t n = 0; n < bands_.size(); ++n) {
        const EffectSettings::Band& a = from.bands[n];
        const EffectSettings::Band& b = to.bands[n];
        const bool still = a == b;
        if (still && b.band == 0.0F && b.low == 0.0F && b.input == 1.0F) {
            continue;
        }
        for (std::size_t done = 0; done < samples.size(); done += subBlock) {
            const std::size_t count = std::min(subBlock, samples.size() - done);
            // The cut-off moves in small steps; the gains, which may change much, frame by frame.
            const float t = passed(2 * done + count, 2 * samples.size());
            const float g = mixed(a.g, b.g, t);
            const float k = mixed(a.k, b.k, t);
            const Trapezoid filter(g, k);
            const auto start = passed(done, samples.size());
            const float step = still ? 0.0F : 1.0F / static_cast<float>(static_cast<int>(samples.size()));
            EffectSettings::Band now = b;
            now.input = mixed(a.input, b.input, start);
            now.band = mixed(a.band, b.band, start);
            now.low = mixed(a.low, b.low, start);
            const float inputStep = (b.input - a.input) * step;
            const float bandStep = (b.band - a.band) * step;
            const float lowStep = (b.low - a.low) * step;
            State state = bands_[n];
            for (float& sample : samples.subspan(done, count)) {
                const auto [band, low] = filter.step(sample, state.first, state.second);
                sample = now.input * sample + now.band * band + now.low * low;
                now.input += inputStep;
                now.band += bandStep;
                now.low += lowStep;
            }
            bands_[n] = state;
        }
    }
}

/// y = s(d x) / s(d) with s(x) = x / sqrt(1 + x^2): full scale stays, soft sounds grow by up to d. Against aliasing the mean
/// of s between two samples stands for it (Parker, Zavalishin and Le Bivic, "Reducing the aliasing of nonlinear
/// waveshaping using continuous-time convolution", DAFx 2016); with this s it is (a + b) / (sqrt(1 + a^2) + sqrt(1 + b^2)),
/// without a difference in the denominator. It takes 0.5 dB at 5 kHz and 2 dB at 10 kHz at a rate of 48 kHz.
void SoundEffects::bend(std::span<float> samples, const EffectSettings& from, const EffectSettings& to)
{
    for (std::size_t i = 0; i < samples.size(); ++i) {
        const float t = passed(i, samples.size());
        const float drive = mixed(from.drive, to.drive, t);
        const float now = samples[i] * drive;
        const float full = drive / std::sqrt(1.0F + drive * drive);
        const float y = (now + before_) / (std::sqrt(1.0F + now * now) + std::sqrt(1.0F + before_ * before_)) / full;
        before_ = now;
        samples[i] += (y - samples[i]) * mixed(from.bent, to.bent, t);
    }
}

namespace
{

void tremble(std::span<float> samples, const EffectSettings& from, const EffectSettings& to, double begun, double pace)
{
    // One turn of a pointer per frame instead of a cosine.
    const double step =
        2.0 * std::numbers::pi * static_cast<double>(to.tremoloDepth > 0.0F ? to.tremoloStep : from.tremoloStep);
    std::complex<double> pointer = std::polar(1.0, std::remainder(begun * step, 2.0 * std::numbers::pi));
    const std::complex<double> turn = std::polar(1.0, pace * step);
    const double re = turn.real();
    const double im = turn.imag();
    for (std::size_t i = 0; i < samples.size(); ++i) {
        const auto swing = static_cast<float>(0.5 - 0.5 * pointer.real());
        samples[i] *= 1.0F - swing * mixed(from.tremoloDepth, to.tremoloDepth, passed(i, samples.size()));
        pointer = {pointer.real() * re - pointer.imag() * im, pointer.real() * im + pointer.imag() * re};
    }
}

void repeat(std::span<float> samples, const EffectSettings& from, const EffectSettings& to, EchoLine& line)
{
    const std::size_t size = line.samples.size();
    const auto behind = [&](std::size_t frames) { return (line.at + size - std::min(frames, size - 1)) % size; };
    const auto on = [size](std::size_t& place) { place = place + 1 == size ? 0 : place + 1; };
    std::size_t before = behind(from.echoFrames);
    std::size_t now = behind(to.echoFrames);
    const bool moves = from.echoFrames != to.echoFrames;
    for (std::size_t i = 0; i < samples.size(); ++i) {
        const float t = passed(i, samples.size());
        // Another delay is another signal: the one fades into the other.
        const float earlier = moves ? mixed(line.samples[before], line.samples[now], t) : line.samples[now];
        line.dulled += mixed(from.echoSharp, to.echoSharp, t) * (earlier - line.dulled);
        samples[i] += mixed(from.echoGain, to.echoGain, t) * line.dulled;
        line.samples[line.at] = samples[i];
        on(line.at);
        on(before);
        on(now);
    }
}

} // namespace

void SoundEffects::process(std::span<float> samples, const EffectSettings& from, const EffectSettings& to, double begun,
                           double pace, EchoLine* line)
{
    equalise(samples, from, to);
    if (from.bent > 0.0F || to.bent > 0.0F) {
        bend(samples, from, to);
    }
    if (from.tremoloDepth > 0.0F || to.tremoloDepth > 0.0F) {
        tremble(samples, from, to, begun, pace);
    }
    if (line != nullptr) {
        repeat(samples, from, to, *line);
    }
}

} // namespace stone
