// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>
#include <cstdint>
#include <filesystem>
#include <functional>
#include <numbers>
#include <string>
#include <vector>

/// Small tools for making sounds out of numbers. Everything here works on a ring: what runs over the end of a sound
/// comes in again at its start, so that a loop has no seam to hear.
namespace vellmoor
{

constexpr int rate = 48'000;
using Track = std::vector<double>;

/// The same numbers for the same seed, everywhere.
class Dice
{
public:
    explicit Dice(std::uint64_t seed) : state_(seed * 0x9E3779B97F4A7C15ULL + 0x1234567ULL) {}
    double unit(); ///< [0, 1)
    double between(double low, double high) { return low + (high - low) * unit(); }
    double normal(); ///< mean 0, deviation 1

private:
    std::uint64_t state_;
};

Track silence(double seconds);
Track noise(double seconds, Dice& dice);

/// Filters of the Audio EQ Cookbook (R. Bristow-Johnson), run round the ring twice so that the end meets the start.
Track lowPass(Track in, double hz, double q = 0.7071);
Track highPass(Track in, double hz, double q = 0.7071);
Track bandPass(Track in, double hz, double q);

/// Adds `wave(t)`, t in seconds from 0 to `length_s`, from a moment on, round the ring.
void add(Track& track, double at_s, double length_s, const std::function<double(double)>& wave);

/// A struck thing: partials that die away, the higher ones sooner. Ratios to `hz`.
struct Partial {
    double ratio;
    double gain;
    double decay_s; ///< time to fall by 60 dB
};
void strike(Track& track, double at_s, double hz, double gain, const std::vector<Partial>& partials, Dice& dice);

/// A puff of filtered noise with a sharp start.
void click(Track& track, double at_s, double hz, double q, double gain, double decay_s, Dice& dice);

/// A tone that fits a whole number of times into the ring.
Track tone(double seconds, double hz, double phase = 0.0);

/// A slow wander from `low` to `high` that meets itself at the seam: a few sines of whole periods.
Track wander(double seconds, double low, double high, int fastest, Dice& dice);

Track multiplied(Track a, const Track& b);
void mix(Track& into, const Track& from, double gain);

/// Scales to a peak in dB below full scale, all channels alike.
void normalise(std::vector<Track>& channels, double peak_db);

/// Writes Ogg Vorbis, or FLAC by the file's ending.
void writeSound(const std::filesystem::path& file, const std::vector<Track>& channels);

} // namespace vellmoor
