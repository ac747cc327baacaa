// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace stone
{

/// A stretch of sound as FLAC files of 24 bits, of eight channels at most each, and back. What is beyond full scale is cut off
/// there.
std::string encodeSoundChunk(std::span<const float> interleaved, int channels, int rate);

/// The same as one FLAC file; at most eight channels.
std::string encodeSoundFile(std::span<const float> interleaved, int channels, int rate);

/// Interleaved frames; empty where the bytes are damaged or have another number of channels.
std::vector<float> decodeSoundChunk(std::string_view chunk, int channels);

} // namespace stone
