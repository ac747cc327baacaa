// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/loudness_meter.h"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// What is measured where a loop comes round.
struct SeamFacts {
    /// By how much the sample after the seam misses where the wave was going, against the wave's own usual steps. Around
    /// 0 dB and below: like anywhere else in the sound. From about 12 dB on it clicks.
    double step_db = 0.0;
    /// The largest difference in level of an octave band between the 100 ms before and after.
    double spectrum_db = 0.0;

    bool operator==(const SeamFacts&) const = default;
};

/// The stretches on both sides of a seam, as long as there is sound, up to seamContext() frames each.
SeamFacts measureSeam(std::span<const float> before, std::span<const float> after, int rate);
std::size_t seamContext(int rate);

/// In plain words whether a loop's seam will be heard.
const char* seamVerdict(const SeamFacts& seam);

/// From here on a seam's step is heard as a click.
constexpr double seamClicks_db = 12.0;

/// What is measured of a sound when it is read, for people to look at and for findings. Levels in dB re full scale.
struct SoundFacts {
    double integrated_lufs = 0.0; ///< gated; minus infinity when there is too little of it
    double loudest_lufs = 0.0;    ///< of the loudest 400 ms, silence counted where the sound is shorter
    double dc = 0.0;              ///< largest mean of a channel, share of full scale
    double headSilence_s = 0.0;   ///< before anything reaches -60 dB
    double tailSilence_s = 0.0;   ///< after it last did
    double innerSilence_s = 0.0;  ///< the longest between the two
    double swell_db = 0.0;        ///< between the loudest and the softest stretch of 400 ms
    float peak = 0.0F;            ///< largest absolute sample
    bool alike = false;           ///< several channels, all the same
    SeamFacts seam;               ///< from the end to the start

    /// How loud it is to people, whatever its length: gated where there is enough of it, else its loudest moment.
    double loudness_lufs() const;

    bool operator==(const SoundFacts&) const = default;
};

/// What was measured of a sound file at its own rate.
struct Measured {
    SoundFacts facts;
    std::uint64_t frames = 0;
    double cost = 0.0; ///< seconds of computing for a second of sound, to decode it; 0: nobody looked

    bool operator==(const Measured&) const = default;
};

/// What of a sound is measured while it is read.
enum class Measure {
    all,
    peak ///< for who only plays it: the other facts stay as they are by default
};

/// Measures a sound that is handed over piece by piece.
class SoundMeasure
{
public:
    SoundMeasure(std::size_t channels, int rate, Measure what = Measure::all);

    /// Whole frames, channels interleaved.
    void add(std::span<const float> interleaved);
    SoundFacts facts();

private:
    struct Channel {
        double sum = 0.0;
        double windowSquares = 0.0;
        double lastHalf = 0.0; ///< squares of the half window before
        double softest = 1e30;
        double loudest = 0.0;
        std::vector<float> first;
        std::vector<float> last; ///< a ring
    };

    void addFrame(std::span<const float> frame);

    const Measure what_;
    int rate_;
    std::size_t frames_ = 0;
    std::size_t halfWindow_;
    std::size_t context_;
    std::size_t place_ = 0;  ///< of the next frame in the rings
    std::size_t inHalf_ = 0; ///< frames of the half window under way
    std::vector<Channel> channels_;
    std::optional<LoudnessMeter> meter_; ///< of whoever measures all
    std::size_t unmetered_ = 0;
    double loudest_lufs_;
    std::size_t silentRun_ = 0;
    std::size_t head_ = 0;
    std::size_t inner_ = 0;
    bool any_ = false;
    bool alike_ = true;
    float peak_ = 0.0F;
};

} // namespace stone
