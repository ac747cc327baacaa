// SPDX-License-Identifier: GPL-3.0-or-later
#include "synth.h"

#include <sndfile.h>

#include <algorithm>
#include <stdexcept>

namespace vellmoor
{

namespace
{

constexpr double tau = 2.0 * std::numbers::pi;

struct Biquad {
    double b0, b1, b2, a1, a2;
};

Track filtered(Track in, const Biquad& f)
{
    double x1 = 0;
    double x2 = 0;
    double y1 = 0;
    double y2 = 0;
    Track out(in.size());
    for (int round = 0; round < 2; ++round) {
        for (std::size_t i = 0; i < in.size(); ++i) {
            const double y = f.b0 * in[i] + f.b1 * x1 + f.b2 * x2 - f.a1 * y1 - f.a2 * y2;
            x2 = x1;
            x1 = in[i];
            y2 = y1;
            y1 = y;
            out[i] = y;
        }
    }
    return out;
}

} // namespace

double Dice::unit()
{
    // SplitMix64 (Steele, Lea, Flood 2014).
    std::uint64_t z = (state_ += 0x9E3779B97F4A7C15ULL);
    z = (z ^ (z >> 30U)) * 0xBF58476D1CE4E5B9ULL;
    z = (z ^ (z >> 27U)) * 0x94D049BB133111EBULL;
    return static_cast<double>((z ^ (z >> 31U)) >> 11U) * 0x1.0p-53;
}

double Dice::normal()
{
    const double u = std::max(unit(), 1e-12);
    return std::sqrt(-2.0 * std::log(u)) * std::cos(tau * unit());
}

Track silence(double seconds)
{
    return Track(static_cast<std::size_t>(std::lround(seconds * rate)), 0.0);
}

Track noise(double seconds, Dice& dice)
{
    Track track = silence(seconds);
    std::generate(track.begin(), track.end(), [&] { return dice.between(-1.0, 1.0); });
    return track;
}

Track lowPass(Track in, double hz, double q)
{
    const double w = tau * hz / rate;
    const double alpha = std::sin(w) / (2 * q);
    const double a0 = 1 + alpha;
    const double c = std::cos(w);
    return filtered(std::move(in), {(1 - c) / 2 / a0, (1 - c) / a0, (1 - c) / 2 / a0, -2 * c / a0, (1 - alpha) / a0});
}

Track highPass(Track in, double hz, double q)
{
    const double w = tau * hz / rate;
    const double alpha = std::sin(w) / (2 * q);
    const double a0 = 1 + alpha;
    const double c = std::cos(w);
    return filtered(std::move(in), {(1 + c) / 2 / a0, -(1 + c) / a0, (1 + c) / 2 / a0, -2 * c / a0, (1 - alpha) / a0});
}

Track bandPass(Track in, double hz, double q)
{
    const double w = tau * hz / rate;
    const double alpha = std::sin(w) / (2 * q);
    const double a0 = 1 + alpha;
    return filtered(std::move(in), {alpha / a0, 0, -alpha / a0, -2 * std::cos(w) / a0, (1 - alpha) / a0});
}

void add(Track& track, double at_s, double length_s, const std::function<double(double)>& wave)
{
    const auto n = static_cast<std::int64_t>(track.size());
    const auto first = static_cast<std::int64_t>(std::lround(at_s * rate));
    const auto length = static_cast<std::int64_t>(std::lround(length_s * rate));
    for (std::int64_t i = 0; i < length; ++i) {
        const std::int64_t at = (((first + i) % n) + n) % n;
        track[static_cast<std::size_t>(at)] += wave(static_cast<double>(i) / rate);
    }
}

void strike(Track& track, double at_s, double hz, double gain, const std::vector<Partial>& partials, Dice& dice)
{
    for (const Partial& partial : partials) {
        const double f = hz * partial.ratio;
        const double phase = dice.between(0, tau);
        const double decay = 6.9078 / partial.decay_s;
        // A start of one millisecond keeps the partials from clicking; the blow itself is a click of its own.
        add(track, at_s, partial.decay_s, [=](double t) {
            return gain * partial.gain * std::min(t / 0.001, 1.0) * std::exp(-decay * t) * std::sin(tau * f * t + phase);
        });
    }
}

void click(Track& track, double at_s, double hz, double q, double gain, double decay_s, Dice& dice)
{
    Track puff = bandPass(noise(decay_s * 1.2, dice), hz, q);
    const double decay = 6.9078 / decay_s;
    add(track, at_s, decay_s, [&](double t) {
        const auto i = std::min(static_cast<std::size_t>(t * rate), puff.size() - 1);
        return gain * puff[i] * std::min(t / 0.0005, 1.0) * std::exp(-decay * t);
    });
}

Track tone(double seconds, double hz, double phase)
{
    const double cycles = std::max(1.0, std::round(hz * seconds));
    Track track = silence(seconds);
    for (std::size_t i = 0; i < track.size(); ++i) {
        track[i] = std::sin(tau * cycles * static_cast<double>(i) / static_cast<double>(track.size()) + phase);
    }
    return track;
}

Track wander(double seconds, double low, double high, int fastest, Dice& dice)
{
    Track track = silence(seconds);
    double sum = 0.0;
    for (int k = 1; k <= fastest; ++k) {
        const double gain = 1.0 / std::sqrt(k);
        const double phase = dice.between(0, tau);
        sum += gain * gain / 2.0;
        for (std::size_t i = 0; i < track.size(); ++i) {
            track[i] += gain * std::sin(tau * k * static_cast<double>(i) / static_cast<double>(track.size()) + phase);
        }
    }
    const double scale = 0.5 / std::sqrt(sum);
    for (double& x : track) {
        x = low + (high - low) * std::clamp(0.5 + 0.5 * x * scale, 0.0, 1.0);
    }
    return track;
}

Track multiplied(Track a, const Track& b)
{
    for (std::size_t i = 0; i < a.size(); ++i) {
        a[i] *= b[i];
    }
    return a;
}

void mix(Track& into, const Track& from, double gain)
{
    for (std::size_t i = 0; i < into.size(); ++i) {
        into[i] += gain * from[i];
    }
}

void normalise(std::vector<Track>& channels, double peak_db)
{
    double peak = 0.0;
    for (const Track& track : channels) {
        for (const double x : track) {
            peak = std::max(peak, std::abs(x));
        }
    }
    const double gain = std::pow(10.0, peak_db / 20.0) / std::max(peak, 1e-9);
    for (Track& track : channels) {
        for (double& x : track) {
            x *= gain;
        }
    }
}

void writeSound(const std::filesystem::path& file, const std::vector<Track>& channels)
{
    SF_INFO info{};
    info.samplerate = rate;
    info.channels = static_cast<int>(channels.size());
    info.format = file.extension() == ".flac" ? SF_FORMAT_FLAC | SF_FORMAT_PCM_16 : SF_FORMAT_OGG | SF_FORMAT_VORBIS;
    SNDFILE* out = sf_open(file.c_str(), SFM_WRITE, &info);
    if (out == nullptr) {
        throw std::runtime_error(file.string() + ": " + sf_strerror(nullptr));
    }
    double quality = 0.45;
    sf_command(out, SFC_SET_VBR_ENCODING_QUALITY, &quality, sizeof quality);
    // In pieces: the Vorbis encoder keeps whatever it is given at once on its stack.
    constexpr std::size_t piece = 4096;
    std::vector<double> interleaved;
    for (std::size_t from = 0; from < channels.front().size(); from += piece) {
        const std::size_t to = std::min(from + piece, channels.front().size());
        interleaved.clear();
        for (std::size_t i = from; i < to; ++i) {
            for (const Track& track : channels) {
                interleaved.push_back(track[i]);
            }
        }
        sf_writef_double(out, interleaved.data(), static_cast<sf_count_t>(to - from));
    }
    sf_close(out);
}

} // namespace vellmoor
