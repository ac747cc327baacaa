// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "exports/csv.h"
#include "media/stop_asked.h"
#include "project/document.h"
#include "project/sound_target_json.h"

#include <cstdint>
#include <filesystem>
#include <functional>
#include <limits>
#include <string>
#include <vector>

namespace stone
{

/// What one file of a sound becomes.
struct PreparedSound {
    /// What is made of its channels.
    enum class Channels {
        kept,
        mid,        ///< their mean
        equalPower, ///< their sum over the square root of their number
        left,       ///< the first alone
        right       ///< the second alone
    };

    SoundId sound;
    std::filesystem::path from;
    std::string to; ///< in the folder, '/' between parts
    Channels channels = Channels::kept;
    bool loop = false;
    double loopFrom_s = 0.0; ///< as SoundFile has them
    double loopTo_s = 0.0;
};

/// What came of one.
struct PreparedFacts {
    std::uint64_t bytesBefore = 0;
    std::uint64_t bytes = 0;
    std::size_t channelsBefore = 0;
    std::size_t channels = 0;
    int rate = 0;
    std::uint64_t frames = 0;
    std::uint64_t trimmedFrames = 0; ///< from its beginning
    std::uint64_t loopFrom = 0;      ///< frames; a loop goes from here to `loopTo` and comes back
    std::uint64_t loopTo = 0;        ///< 0: no loop
    double gain_db = 0.0;            ///< by which it was made louder, so that a game has to take it off again
    double loudness_lufs = -std::numeric_limits<double>::infinity(); ///< integrated, as it came out; minus infinity: silence
};

/// Every file of a project's sounds, each once, under names that are its own with the ending of the format. A file is folded
/// where all that use it, patterns of plant rules counted, are placed somewhere and take its channels alike; who uses it in a
/// bed, as an image, or made for two ears, keeps its channels. `resolve`: where a file of the document lies.
std::vector<PreparedSound> soundsToPrepare(const Project& project, const SoundTarget& target,
                                           const std::function<std::filesystem::path(const std::string&)>& resolve);

/// Writes one of them into a folder. A loop is brought to another rate as a loop, and has its points in a WAV file. The file
/// appears whole or not at all. Throws FileError. Takes as long as reading and writing does: not for a thread that somebody
/// waits for.
PreparedFacts prepareSound(const PreparedSound& what, const SoundTarget& target, const std::filesystem::path& folder,
                           const StopAsked& stop = {});

/// What was prepared, as a table: where from, how large before and after, and the points of loops, for formats that have none.
CsvTable preparedTable(const std::vector<PreparedSound>& sounds, const std::vector<PreparedFacts>& facts);

} // namespace stone
