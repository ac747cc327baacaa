// SPDX-License-Identifier: MPL-2.0
#include "media/sound_writer.h"

#include "project/file_error.h"

#include <sndfile.h>

#include <array>
#include <fstream>
#include <string_view>
#include <unistd.h>

namespace stone
{

struct SoundWriter::State {
    std::filesystem::path file;
    std::filesystem::path partial;
    SNDFILE* handle = nullptr;
    int channels = 0;
};

namespace
{

/// What a WAV file of floats may have without wider numbers for its sizes.
constexpr std::uint64_t mostOfWav = 4'000'000'000U;

/// Nothing is written over but sound of the same kind.
void requireOwnKind(const std::filesystem::path& file)
{
    std::error_code error;
    const auto status = std::filesystem::status(file, error);
    if (!std::filesystem::exists(status)) {
        return;
    }
    std::array<char, 4> head{};
    if (std::filesystem::is_regular_file(status)) {
        std::ifstream(file, std::ios::binary).read(head.data(), head.size());
    }
    const std::string_view kind(head.data(), head.size());
    if (kind != "RIFF" && kind != "RF64") {
        throw FileError(file.string() + ": is there already and is no WAV file, so it is left as it is; choose another name");
    }
}

} // namespace

SoundWriter::SoundWriter(const std::filesystem::path& file, int channels, int rate, std::uint64_t frames)
    : state_(std::make_unique<State>())
{
    requireOwnKind(file);
    state_->file = file;
    state_->partial = file.string() + ".part-" + std::to_string(::getpid());
    state_->channels = channels;
    SF_INFO info{};
    info.samplerate = rate;
    info.channels = channels;
    const bool large = frames * static_cast<std::uint64_t>(channels) * sizeof(float) > mostOfWav;
    info.format = (large ? SF_FORMAT_RF64 : SF_FORMAT_WAV) | SF_FORMAT_FLOAT;
    state_->handle = sf_open(state_->partial.c_str(), SFM_WRITE, &info);
    if (state_->handle == nullptr) {
        throw FileError(file.string() + ": cannot be written (" + sf_strerror(nullptr) + "); choose another place");
    }
    // A peak chunk carries the time of writing; without it the same sound is the same file to the byte.
    sf_command(state_->handle, SFC_SET_ADD_PEAK_CHUNK, nullptr, SF_FALSE);
}

SoundWriter::~SoundWriter()
{
    if (state_->handle != nullptr) {
        sf_close(state_->handle);
        std::error_code ignored;
        std::filesystem::remove(state_->partial, ignored);
    }
}

void SoundWriter::write(std::span<const float> interleaved)
{
    const auto frames = static_cast<sf_count_t>(interleaved.size()) / state_->channels;
    if (sf_writef_float(state_->handle, interleaved.data(), frames) != frames) {
        throw FileError(state_->file.string() + ": cannot be written (" + sf_strerror(state_->handle) +
                        "); make room on the disk");
    }
}

void SoundWriter::finish()
{
    sf_write_sync(state_->handle);
    const int failed = sf_close(state_->handle);
    state_->handle = nullptr;
    std::error_code error;
    std::filesystem::rename(state_->partial, state_->file, error);
    if (failed != 0 || error) {
        std::error_code ignored;
        std::filesystem::remove(state_->partial, ignored);
        throw FileError(state_->file.string() + ": cannot be written; make room on the disk or choose another place");
    }
}

} // namespace stone
