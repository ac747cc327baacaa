// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>

namespace stone
{

/// Writes a 32-bit float WAV, RF64 where it would be larger than a WAV can be. The file appears under its name only with
/// finish(); if the writer goes away before that, nothing is left behind. Replaces a WAV file, and nothing else: neither a file
/// of another kind nor a device. Not for the audio thread. Throws FileError.
class SoundWriter
{
public:
    /// `frames`: so many will come, as far as is known.
    SoundWriter(const std::filesystem::path& file, int channels, int rate, std::uint64_t frames = 0);
    ~SoundWriter();
    SoundWriter(const SoundWriter&) = delete;
    SoundWriter& operator=(const SoundWriter&) = delete;

    /// Whole frames, channels interleaved.
    void write(std::span<const float> interleaved);
    void finish();

private:
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace stone
