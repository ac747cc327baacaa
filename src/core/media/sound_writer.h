#pragma once

#include <filesystem>
#include <memory>
#include <span>

namespace stone
{

/// Writes a 32-bit float WAV. The file appears under its name only with finish(); if the writer goes away before that,
/// nothing is left behind. Not for the audio thread. Throws FileError.
class SoundWriter
{
public:
    SoundWriter(const std::filesystem::path& file, int channels, int rate);
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
