// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace stone
{

/// Reads a sound file (WAV, FLAC, Ogg, Opus, MP3), from the disk or from its bytes in memory. Blocks; for one thread at a
/// time, never the audio thread.
class SoundDecoder
{
public:
    /// Throws FileError with one line that names the file.
    explicit SoundDecoder(const std::filesystem::path& file);
    /// `label` names the file in messages. The bytes must outlive the decoder.
    SoundDecoder(std::span<const std::uint8_t> bytes, const std::string& label);
    ~SoundDecoder();
    SoundDecoder(const SoundDecoder&) = delete;
    SoundDecoder& operator=(const SoundDecoder&) = delete;

    int rate() const;
    std::size_t channels() const;
    /// What the header claims; the file may hold less or more.
    std::uint64_t claimedFrames() const;

    /// Fills whole frames, channels interleaved; returns how many, 0 at the end. Numbers that are none become 0, everything
    /// is held within +-16.
    std::size_t read(std::span<float> interleaved);
    /// Whether seek() can be relied on to land where it should.
    bool seeksExactly() const;
    /// Goes to a frame; false when the file cannot be read from there.
    bool seek(std::uint64_t frame);

private:
    struct State;
    std::unique_ptr<State> state_;
};

/// The bytes of a file. Throws FileError.
std::vector<std::uint8_t> bytesOf(const std::filesystem::path& file);

} // namespace stone
