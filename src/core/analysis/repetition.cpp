// SPDX-License-Identifier: MPL-2.0
#include "analysis/repetition.h"

#include "dsp/fft.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

constexpr std::size_t bandCount = 8;
constexpr double lowestBand_hz = 62.5;
constexpr double silent_db = -120.0;
/// What lies this far below a band's loudest moment is silence: fluctuations down there mean nothing.
constexpr double depth_db = 45.0;
constexpr double hidden_db = 30.0;

using Bands = std::array<double, bandCount>;

double db(double power)
{
    return power > 1e-12 ? 10.0 * std::log10(power) : silent_db;
}

/// Levels of octave bands every step, and of the whole.
std::vector<Bands> bandsOf(std::span<const float> mono, double rate, std::vector<double>& whole_db)
{
    std::size_t size = 1024;
    while (static_cast<double>(size) < rate * 0.15) {
        size *= 2;
    }
    std::vector<float> window(size);
    for (std::size_t i = 0; i < size; ++i) {
        window[i] = static_cast<float>(
            0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * (static_cast<double>(i) + 0.5) / static_cast<double>(size)));
    }
    RealFft fft(size);
    std::vector<Bands> all;
    const auto count = static_cast<std::size_t>(static_cast<double>(mono.size()) / rate / Repetition::step_s);
    for (std::size_t step = 0; step < count; ++step) {
        const auto from = static_cast<std::size_t>(static_cast<double>(step) * Repetition::step_s * rate);
        if (from + size > mono.size()) {
            break;
        }
        double sum = 0.0;
        for (std::size_t i = 0; i < size; ++i) {
            const float x = mono[from + i];
            sum += static_cast<double>(x) * static_cast<double>(x);
            fft.samples()[i] = x * window[i];
        }
        whole_db.push_back(db(sum / static_cast<double>(size)));
        fft.forward();
        Bands power{};
        for (std::size_t bin = 1; bin < size / 2; ++bin) {
            const double hz = static_cast<double>(bin) * rate / static_cast<double>(size);
            const double octave = std::floor(std::log2(hz / lowestBand_hz) + 0.5);
            if (octave >= 0.0 && octave < static_cast<double>(bandCount)) {
                power[static_cast<std::size_t>(octave)] += static_cast<double>(std::norm(fft.bins()[bin]));
            }
        }
        Bands level{};
        const double full = static_cast<double>(size) * static_cast<double>(size) / 8.0;
        std::transform(power.begin(), power.end(), level.begin(), [&](double p) { return db(p / full); });
        all.push_back(level);
    }
    return all;
}

/// Turns levels into fluctuations about their means, each band's with its weight: the loudest counts in full, one that is
/// `hidden_db` softer not at all, as the others hide it. Returns how far they swing.
double takeMeans(std::vector<Bands>& bands)
{
    const auto count = static_cast<double>(bands.size());
    Bands mean{};
    for (std::size_t b = 0; b < bandCount; ++b) {
        double loudest = silent_db;
        for (const Bands& at : bands) {
            loudest = std::max(loudest, at[b]);
        }
        for (Bands& at : bands) {
            at[b] = loudest > silent_db ? std::max(at[b], loudest - depth_db) : silent_db;
            mean[b] += at[b] / count;
        }
    }
    const double most = *std::max_element(mean.begin(), mean.end());
    double swing = 0.0;
    double weights = 0.0;
    for (std::size_t b = 0; b < bandCount; ++b) {
        const double weight = std::clamp(1.0 + (mean[b] - most) / hidden_db, 0.0, 1.0);
        double square = 0.0;
        for (Bands& at : bands) {
            at[b] -= mean[b];
            square += at[b] * at[b];
            at[b] *= weight;
        }
        swing += weight * std::sqrt(square / count);
        weights += weight;
    }
    return swing / weights;
}

double likenessAt(const std::vector<Bands>& bands, std::size_t lag)
{
    double both = 0.0;
    double first = 0.0;
    double second = 0.0;
    for (std::size_t i = 0; i + lag < bands.size(); ++i) {
        for (std::size_t b = 0; b < bandCount; ++b) {
            const double x = bands[i][b];
            const double y = bands[i + lag][b];
            both += x * y;
            first += x * x;
            second += y * y;
        }
    }
    const double size = std::sqrt(first * second);
    return size > 0.0 ? both / size : 0.0;
}

} // namespace

Repetition listenForRepeats(std::span<const float> mono, double rate)
{
    Repetition found;
    std::vector<Bands> bands = bandsOf(mono, rate, found.level_db);
    if (bands.empty()) {
        return found;
    }
    std::vector<double> sorted = found.level_db;
    std::sort(sorted.begin(), sorted.end());
    const double loud_db = sorted[sorted.size() * 9 / 10];
    found.density =
        static_cast<double>(std::count_if(sorted.begin(), sorted.end(),
                                          [&](double level) { return level > silent_db && level >= loud_db - 20.0; })) /
        static_cast<double>(sorted.size());
    found.swing_db = takeMeans(bands);
    for (std::size_t lag = 0; lag < bands.size() * 2 / 3; ++lag) {
        found.likeness.push_back(likenessAt(bands, lag));
    }
    const auto first = static_cast<std::size_t>(std::lround(Repetition::soonest_s / Repetition::step_s));
    const auto& likeness = found.likeness;
    const auto isPeak = [&](std::size_t lag) {
        return likeness[lag] >= Repetition::leastLikeness && likeness[lag] >= likeness[lag - 1] &&
               likeness[lag] > likeness[lag + 1];
    };
    double best = 0.0;
    for (std::size_t lag = first; lag + 1 < likeness.size(); ++lag) {
        best = isPeak(lag) ? std::max(best, likeness[lag]) : best;
    }
    // The first that is about as good as the best: the others are its multiples.
    for (std::size_t lag = first; best > 0.0 && lag + 1 < likeness.size() && !found.after_s; ++lag) {
        if (isPeak(lag) && likeness[lag] >= 0.9 * best) {
            found.after_s = static_cast<double>(lag) * Repetition::step_s;
            found.likenessThere = likeness[lag];
        }
    }
    return found;
}

} // namespace stone
