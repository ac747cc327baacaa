// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <filesystem>

namespace stone
{

/// Writes the mean of a sound file's channels as a WAV file of one channel at the same rate: a signal that is alike in all of
/// them keeps its level. Reads the file a stretch at a time. Throws FileError, and leaves nothing behind then.
void foldToMono(const std::filesystem::path& from, const std::filesystem::path& to);

/// How long a sound file says it is, seconds, without reading it through; 0 where that is not known. Does not throw.
double claimedSeconds(const std::filesystem::path& file);

} // namespace stone
