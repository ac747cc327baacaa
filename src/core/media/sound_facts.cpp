#include "media/sound_facts.h"

#include "dsp/decibel.h"
#include "dsp/fft.h"
#include "dsp/loudness_meter.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

using Channels = std::vector<std::vector<float>>;

constexpr float silent = 0.001F;       ///< -60 dB
constexpr double masked = 0.01;        ///< 40 dB
constexpr double spectrum_s = 0.1;     ///< compared on both sides of a seam
constexpr double bandFloor_db = -70.0; ///< what lies below is not compared
constexpr double swellWindow_s = 0.4;
constexpr std::size_t stepsAround = 2048; ///< in which the wave's usual steps are measured

/// By how much a sample misses the straight line through the two before it.
double miss(float a, float b, float c)
{
    return std::abs(static_cast<double>(c) - 2.0 * static_cast<double>(b) + static_cast<double>(a));
}

double seamStep_db(const std::vector<float>& x)
{
    const std::size_t n = x.size();
    if (n < 16) {
        return 0.0;
    }
    const std::size_t around = std::min(stepsAround, n / 2);
    double usual = 0.0;
    for (std::size_t i = 2; i < around; ++i) {
        usual += std::pow(miss(x[i - 2], x[i - 1], x[i]), 2.0) + std::pow(miss(x[n - i - 1], x[n - i], x[n - i + 1]), 2.0);
    }
    usual = std::sqrt(usual / static_cast<double>(2 * (around - 2)));
    const double seam = std::max(miss(x[n - 2], x[n - 1], x[0]), miss(x[n - 1], x[0], x[1]));
    double power = 0.0;
    for (std::size_t i = 0; i < around; ++i) {
        power += std::pow(static_cast<double>(x[i]), 2.0) + std::pow(static_cast<double>(x[n - 1 - i]), 2.0);
    }
    // A step so far below the sound itself is not heard, however smooth the wave.
    const double heard = std::max(std::sqrt(power / static_cast<double>(2 * around)) * masked, 3e-5);
    return 20.0 * std::log10(std::max(seam, heard) / std::max(usual, heard));
}

std::vector<double> octaves_db(const float* x, std::size_t size, int rate)
{
    RealFft fft(size);
    for (std::size_t i = 0; i < size; ++i) {
        const double hann = 0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(size));
        fft.samples()[i] = x[i] * static_cast<float>(hann);
    }
    fft.forward();
    std::vector<double> power(8, 0.0);
    for (std::size_t bin = 1; bin < size / 2; ++bin) {
        const double hz = static_cast<double>(bin) * rate / static_cast<double>(size);
        const double octave = std::log2(hz / 63.0) + 0.5;
        if (octave >= 0.0 && octave < 8.0) {
            power[static_cast<std::size_t>(octave)] += static_cast<double>(std::norm(fft.bins()[bin]));
        }
    }
    const double scale = 4.0 / std::pow(static_cast<double>(size), 2.0);
    for (double& p : power) {
        p = 10.0 * std::log10(p * scale + 1e-20);
    }
    return power;
}

double seamSpectrum_db(const std::vector<float>& x, int rate)
{
    const auto size = static_cast<std::size_t>(spectrum_s * rate) / 2 * 2;
    if (x.size() < 2 * size) {
        return 0.0;
    }
    const std::vector<double> first = octaves_db(x.data(), size, rate);
    const std::vector<double> last = octaves_db(x.data() + x.size() - size, size, rate);
    double largest = 0.0;
    for (std::size_t band = 0; band < first.size(); ++band) {
        if (std::max(first[band], last[band]) > bandFloor_db) {
            largest = std::max(largest, std::abs(std::max(first[band], bandFloor_db) - std::max(last[band], bandFloor_db)));
        }
    }
    return largest;
}

double swell_db(const std::vector<float>& x, int rate)
{
    const auto window = static_cast<std::size_t>(swellWindow_s * rate);
    double softest = 1e9;
    double loudest = -1e9;
    for (std::size_t start = 0; start + window <= x.size(); start += window / 2) {
        double sum = 0.0;
        for (std::size_t i = start; i < start + window; ++i) {
            sum += static_cast<double>(x[i]) * static_cast<double>(x[i]);
        }
        const double db = 10.0 * std::log10(sum / static_cast<double>(window) + 1e-10);
        softest = std::min(softest, db);
        loudest = std::max(loudest, db);
    }
    return std::max(loudest - softest, 0.0);
}

} // namespace

SoundFacts measureSound(const Channels& channels, int rate)
{
    SoundFacts facts;
    const std::size_t frames = channels.front().size();
    LoudnessMeter meter(static_cast<int>(channels.size()), rate);
    std::vector<float> block;
    constexpr std::size_t blockFrames = 4096;
    for (std::size_t start = 0; start < frames; start += blockFrames) {
        const std::size_t n = std::min(blockFrames, frames - start);
        block.resize(n * channels.size());
        for (std::size_t i = 0; i < n; ++i) {
            for (std::size_t channel = 0; channel < channels.size(); ++channel) {
                block[i * channels.size() + channel] = channels[channel][start + i];
            }
        }
        meter.add(block);
    }
    facts.integrated_lufs = meter.integrated_lufs();
    std::vector<bool> heard(frames, false);
    facts.seamStep_db = -100.0;
    for (const std::vector<float>& x : channels) {
        double sum = 0.0;
        for (std::size_t i = 0; i < frames; ++i) {
            sum += static_cast<double>(x[i]);
            heard[i] = heard[i] || std::abs(x[i]) > silent;
        }
        facts.dc = std::max(facts.dc, std::abs(sum / static_cast<double>(frames)));
        facts.seamStep_db = std::max(facts.seamStep_db, seamStep_db(x));
        facts.seamSpectrum_db = std::max(facts.seamSpectrum_db, seamSpectrum_db(x, rate));
        facts.swell_db = std::max(facts.swell_db, swell_db(x, rate));
    }
    std::size_t run = 0;
    bool any = false;
    for (std::size_t i = 0; i < frames; ++i) {
        if (heard[i]) {
            const double silence_s = static_cast<double>(run) / rate;
            (any ? facts.innerSilence_s : facts.headSilence_s) = std::max(silence_s, any ? facts.innerSilence_s : 0.0);
            any = true;
        }
        run = heard[i] ? 0 : run + 1;
    }
    (any ? facts.tailSilence_s : facts.headSilence_s) = static_cast<double>(run) / rate;
    return facts;
}

const char* seamVerdict(const SoundFacts& facts)
{
    constexpr double noticed_db = 15.0;
    if (facts.seamStep_db >= seamClicks_db) {
        return "it clicks";
    }
    return facts.seamSpectrum_db >= noticed_db ? "smooth, but the sound changes" : "nothing to be heard";
}

} // namespace stone
