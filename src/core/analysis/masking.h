// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"
#include "engine/scene.h"
#include "media/sample_buffer.h"

#include <span>
#include <vector>

namespace stone
{

/// How loud a sound is in each octave band, dB re full scale: the mean of its files by energy over as much of each as is heard
/// at a time, the first ten seconds. -200 where there is nothing. May wait for the disk.
Bands octaveLevels_db(std::span<const SharedBuffer> files);

/// Of each playable of a scene's level, with the files that are there.
std::vector<Bands> bandsOf(const Scene& scene);

/// Sums of energies by band, from levels.
struct BandEnergies {
    Bands energy{};

    void add(const Bands& level_db);
    /// Without one that was added.
    Bands without_db(const Bands& level_db) const;
};

/// What masks reaches upwards: levels by band with what lower bands spread into them. The slope towards high frequencies is
/// that of E. Terhardt (Calculating virtual pitch, Hearing Research 1, 1979), 24 + 230 Hz / f - 0.2 L dB per Bark, so that a
/// low loud sound masks higher ones; downwards it is too steep (27 dB per Bark) to reach the next octave. Full scale is taken
/// for 100 dB of sound pressure.
Bands masking_db(const Bands& level_db);

/// Who of several masks one of them: whoever reaches furthest into the band in which it is strongest; itself, where it is
/// alone.
std::size_t maskerOf(std::span<const Bands> levels_db, std::size_t masked);

/// By how much a sound stands out of others in the band where it does so most: below -maskedBelow_db nobody makes it out. Bands
/// in which it would hardly be noticed alone do not count; minus infinity where none is left.
double standsOut_db(const Bands& sound_db, const Bands& others_db);
constexpr double maskedBelow_db = 4.0;

} // namespace stone
