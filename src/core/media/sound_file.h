// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/measure_store.h"
#include "media/sample_buffer.h"
#include "media/stop_asked.h"
#include "project/sound.h"

#include <filesystem>

namespace stone
{

/// How a file is measured when it is read.
struct Measuring {
    Measure what = Measure::all;                 ///< where nothing is known of it yet
    std::shared_ptr<const MeasureStore> store{}; ///< where measures are kept; null: nowhere
};

/// Reads a sound file (WAV, FLAC, Ogg, Opus, MP3) and brings it to `rate`. A loop is resampled as a loop: what comes
/// before its start is its end, so that the seam stays what it was. Blocks; not for the audio thread. Memory follows
/// what the file really holds, never what its header claims. Throws FileError.
/// Sounds longer than longestSound_s, or than 1 GiB as they are kept, are refused. `stop`: asked now and then; when it says so
/// the reading ends with a FileError.
SharedBuffer readSoundFile(const std::filesystem::path& file, int rate, bool loop, const StopAsked& stop = {},
                           const Measuring& measuring = {});

/// From this length on what is kept automatically is streamed.
constexpr double longSound_s = 60.0;

/// The same, kept as asked for.
SharedBuffer openSoundFile(const std::filesystem::path& file, int rate, bool loop, Keeping keeping,
                           const std::shared_ptr<BlockLoader>& loader, const StopAsked& stop = {},
                           const Measuring& measuring = {});

} // namespace stone
