// SPDX-License-Identifier: MPL-2.0
#include "media/sound_facts.h"

#include "dsp/decibel.h"
#include "dsp/fft.h"
#include "dsp/loudness_meter.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>
#include <numbers>

namespace stone
{

namespace
{

constexpr float silent = 0.001F;       ///< -60 dB
constexpr double masked = 0.01;        ///< 40 dB
constexpr double spectrum_s = 0.1;     ///< compared on both sides of a seam
constexpr double bandFloor_db = -70.0; ///< what lies below is not compared
constexpr double swellWindow_s = 0.4;
constexpr double momentHop_s = 0.1;       ///< between two looks at the momentary loudness
constexpr double shortest_s = 0.4;        ///< what a momentary loudness is measured over
constexpr std::size_t stepsAround = 2048; ///< in which the wave's usual steps are measured

/// By how much a sample misses the straight line through the two before it.
double miss(float a, float b, float c)
{
    return std::abs(static_cast<double>(c) - 2.0 * static_cast<double>(b) + static_cast<double>(a));
}

double seamStep_db(std::span<const float> before, std::span<const float> after)
{
    const std::size_t n = before.size();
    const std::size_t around = std::min({stepsAround, n, after.size()});
    if (around < 8) {
        return 0.0;
    }
    double usual = 0.0;
    double power = 0.0;
    for (std::size_t i = 0; i < around; ++i) {
        power += std::pow(static_cast<double>(after[i]), 2.0) + std::pow(static_cast<double>(before[n - 1 - i]), 2.0);
        if (i >= 2) {
            usual += std::pow(miss(after[i - 2], after[i - 1], after[i]), 2.0) +
                     std::pow(miss(before[n - i - 1], before[n - i], before[n - i + 1]), 2.0);
        }
    }
    usual = std::sqrt(usual / static_cast<double>(2 * (around - 2)));
    const double seam = std::max(miss(before[n - 2], before[n - 1], after[0]), miss(before[n - 1], after[0], after[1]));
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

double seamSpectrum_db(std::span<const float> before, std::span<const float> after, int rate)
{
    const std::size_t size = std::bit_floor(static_cast<std::size_t>(spectrum_s * rate));
    if (before.size() < size || after.size() < size || size < 2) {
        return 0.0;
    }
    const std::vector<double> first = octaves_db(after.data(), size, rate);
    const std::vector<double> last = octaves_db(before.data() + before.size() - size, size, rate);
    double largest = 0.0;
    for (std::size_t band = 0; band < first.size(); ++band) {
        if (std::max(first[band], last[band]) > bandFloor_db) {
            largest = std::max(largest, std::abs(std::max(first[band], bandFloor_db) - std::max(last[band], bandFloor_db)));
        }
    }
    return largest;
}

} // namespace

std::size_t seamContext(int rate)
{
    return std::max(static_cast<std::size_t>(spectrum_s * rate), stepsAround);
}

SeamFacts measureSeam(std::span<const float> before, std::span<const float> after, int rate)
{
    return {seamStep_db(before, after), seamSpectrum_db(before, after, rate)};
}

double SoundFacts::loudness_lufs() const
{
    return std::isfinite(integrated_lufs) ? integrated_lufs : loudest_lufs;
}

SoundMeasure::SoundMeasure(std::size_t channels, int rate, Measure what)
    : what_(what), rate_(rate), halfWindow_(std::max<std::size_t>(static_cast<std::size_t>(swellWindow_s * rate / 2.0), 1)),
      context_(seamContext(rate)), channels_(channels), loudest_lufs_(-std::numeric_limits<double>::infinity())
{
    if (what == Measure::all) {
        meter_.emplace(static_cast<int>(channels), rate);
        for (Channel& channel : channels_) {
            channel.last.resize(context_);
        }
    }
}

void SoundMeasure::addFrame(std::span<const float> frame)
{
    bool heard = false;
    for (std::size_t i = 0; i < frame.size(); ++i) {
        const float x = frame[i];
        Channel& channel = channels_[i];
        channel.sum += static_cast<double>(x);
        channel.windowSquares += static_cast<double>(x) * static_cast<double>(x);
        if (frames_ < context_) {
            channel.first.push_back(x);
        }
        channel.last[place_] = x;
        heard = heard || std::abs(x) > silent;
        alike_ = alike_ && x == frame.front();
        peak_ = std::max(peak_, std::abs(x));
    }
    if (heard) {
        std::size_t& longest = any_ ? inner_ : head_;
        longest = std::max(longest, silentRun_);
        any_ = true;
    }
    silentRun_ = heard ? 0 : silentRun_ + 1;
    ++frames_;
    place_ = place_ + 1 == context_ ? 0 : place_ + 1;
    if (++inHalf_ == halfWindow_) {
        inHalf_ = 0;
        for (Channel& channel : channels_) {
            if (frames_ >= 2 * halfWindow_) {
                const double squares = channel.windowSquares + channel.lastHalf;
                channel.softest = std::min(channel.softest, squares);
                channel.loudest = std::max(channel.loudest, squares);
            }
            channel.lastHalf = channel.windowSquares;
            channel.windowSquares = 0.0;
        }
    }
}

void SoundMeasure::add(std::span<const float> interleaved)
{
    if (what_ == Measure::peak) {
        // Several at once: none waits for the one before it.
        std::array<float, 16> peaks{};
        std::size_t i = 0;
        for (; i + peaks.size() <= interleaved.size(); i += peaks.size()) {
            for (std::size_t k = 0; k < peaks.size(); ++k) {
                peaks[k] = std::max(peaks[k], std::abs(interleaved[i + k]));
            }
        }
        for (; i < interleaved.size(); ++i) {
            peaks[0] = std::max(peaks[0], std::abs(interleaved[i]));
        }
        peak_ = std::max(peak_, *std::max_element(peaks.begin(), peaks.end()));
        return;
    }
    const std::size_t width = channels_.size();
    const auto hop = static_cast<std::size_t>(momentHop_s * rate_);
    for (std::size_t at = 0; at < interleaved.size(); at += width) {
        addFrame(interleaved.subspan(at, width));
    }
    while (!interleaved.empty()) {
        const std::size_t n = std::min((hop - unmetered_) * width, interleaved.size());
        meter_->add(interleaved.first(n));
        interleaved = interleaved.subspan(n);
        unmetered_ += n / width;
        if (unmetered_ == hop) {
            unmetered_ = 0;
            loudest_lufs_ = std::max(loudest_lufs_, meter_->momentary_lufs());
        }
    }
}

SoundFacts SoundMeasure::facts()
{
    SoundFacts facts;
    facts.peak = peak_;
    if (what_ == Measure::peak) {
        return facts;
    }
    facts.integrated_lufs = meter_->integrated_lufs();
    if (static_cast<double>(frames_) < shortest_s * rate_) {
        // A short sound's loudest moment has silence around it.
        const std::vector<float> silence(static_cast<std::size_t>(shortest_s * rate_) * channels_.size(), 0.0F);
        meter_->add(std::span(silence).first((static_cast<std::size_t>(shortest_s * rate_) - frames_) * channels_.size()));
        loudest_lufs_ = std::max(loudest_lufs_, meter_->momentary_lufs());
    }
    facts.loudest_lufs = loudest_lufs_;
    facts.alike = channels_.size() > 1 && alike_;
    facts.seam.step_db = -100.0;
    const auto scale = static_cast<double>(2 * halfWindow_);
    const auto level = [scale](double squares) { return 10.0 * std::log10(squares / scale + 1e-10); };
    for (const Channel& channel : channels_) {
        facts.dc = std::max(facts.dc, std::abs(channel.sum / static_cast<double>(frames_)));
        std::vector<float> last;
        for (std::size_t i = frames_ - std::min(frames_, context_); i < frames_; ++i) {
            last.push_back(channel.last[i % context_]);
        }
        const SeamFacts seam = measureSeam(last, channel.first, rate_);
        facts.seam.step_db = std::max(facts.seam.step_db, seam.step_db);
        facts.seam.spectrum_db = std::max(facts.seam.spectrum_db, seam.spectrum_db);
        if (channel.softest < 1e30) {
            facts.swell_db = std::max(facts.swell_db, level(channel.loudest) - level(channel.softest));
        }
    }
    const auto seconds = [this](std::size_t frames) { return static_cast<double>(frames) / rate_; };
    facts.headSilence_s = seconds(any_ ? head_ : silentRun_);
    facts.innerSilence_s = seconds(inner_);
    facts.tailSilence_s = any_ ? seconds(silentRun_) : 0.0;
    return facts;
}

const char* seamVerdict(const SeamFacts& seam)
{
    constexpr double noticed_db = 15.0;
    if (seam.step_db >= seamClicks_db) {
        return "it clicks";
    }
    return seam.spectrum_db >= noticed_db ? "smooth, but the sound changes" : "nothing to be heard";
}

} // namespace stone
