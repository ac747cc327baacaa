#pragma once

#include <cstddef>
#include <vector>

namespace stone
{

/// What is measured of a sound when it is read, for people to look at and for findings. Levels in dB re full scale.
struct SoundFacts {
    double integrated_lufs = 0.0; ///< gated; minus infinity when there is too little of it
    double dc = 0.0;              ///< largest mean of a channel, share of full scale
    double headSilence_s = 0.0;   ///< before anything reaches -60 dB
    double tailSilence_s = 0.0;   ///< after it last did
    double innerSilence_s = 0.0;  ///< the longest between the two
    /// Of a loop: by how much the sample after the seam misses where the wave was going, against the wave's own usual
    /// steps. Around 0 dB and below: like anywhere else in the sound. From about 12 dB on it clicks.
    double seamStep_db = 0.0;
    /// Of a loop: the largest difference in level of an octave band between the last and the first 100 ms.
    double seamSpectrum_db = 0.0;
    /// Between the loudest and the softest stretch of 400 ms.
    double swell_db = 0.0;
};

/// Channels all of one length, at least one frame. Takes time in proportion to that length.
SoundFacts measureSound(const std::vector<std::vector<float>>& channels, int rate);

/// In plain words whether a loop's seam will be heard.
const char* seamVerdict(const SoundFacts& facts);

/// From here on a seam's step is heard as a click.
constexpr double seamClicks_db = 12.0;

} // namespace stone
