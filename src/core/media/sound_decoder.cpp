// SPDX-License-Identifier: MPL-2.0
#include "media/sound_decoder.h"

#include "project/file_error.h"

#include <sndfile.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fstream>

namespace stone
{

namespace
{

constexpr int mostFileChannels = 16;
constexpr float loudest = 16.0F;

void requireBytes(std::uintmax_t size, const std::string& label)
{
    if (size == 0) {
        throw FileError(label + ": the sound is empty (0 bytes); export it again");
    }
}

std::uintmax_t sizeOf(const std::filesystem::path& file)
{
    std::error_code error;
    const auto size = std::filesystem::file_size(file, error);
    if (error) {
        throw FileError(file.string() + ": the sound cannot be read (" + error.message() + "); choose the file again");
    }
    requireBytes(size, file.string());
    return size;
}

/// Whether its samples are whole numbers, which come as -1 to 1.
bool isWhole(int format)
{
    switch (format & SF_FORMAT_SUBMASK) {
    case SF_FORMAT_PCM_S8:
    case SF_FORMAT_PCM_U8:
    case SF_FORMAT_PCM_16:
    case SF_FORMAT_PCM_24:
    case SF_FORMAT_PCM_32: return true;
    default: return false;
    }
}

} // namespace

struct SoundDecoder::State {
    struct CloseFile {
        void operator()(SNDFILE* file) const { sf_close(file); }
    };

    /// A file in memory as libsndfile reads it.
    struct MemoryFile {
        std::span<const std::uint8_t> bytes;
        sf_count_t at = 0;

        static MemoryFile& of(void* user) { return *static_cast<MemoryFile*>(user); }

        static sf_count_t length(void* user) { return static_cast<sf_count_t>(of(user).bytes.size()); }

        static sf_count_t seek(sf_count_t offset, int whence, void* user)
        {
            MemoryFile& file = of(user);
            const sf_count_t from = whence == SEEK_SET ? 0 : whence == SEEK_CUR ? file.at : length(user);
            file.at = std::clamp<sf_count_t>(from + offset, 0, length(user));
            return file.at;
        }

        static sf_count_t read(void* to, sf_count_t count, void* user)
        {
            MemoryFile& file = of(user);
            const sf_count_t n = std::clamp<sf_count_t>(count, 0, length(user) - file.at);
            std::memcpy(to, file.bytes.data() + file.at, static_cast<std::size_t>(n));
            file.at += n;
            return n;
        }

        static sf_count_t write(const void*, sf_count_t, void*) { return 0; }
        static sf_count_t tell(void* user) { return of(user).at; }
    };

    MemoryFile memory;
    SF_INFO info{};
    std::unique_ptr<SNDFILE, CloseFile> handle;

    void check(const std::string& label) const
    {
        if (!handle) {
            std::string why = sf_strerror(nullptr);
            std::replace(why.begin(), why.end(), '\n', ' ');
            throw FileError(label + ": not a sound file that can be read (" + why + "); use WAV, FLAC, Ogg, Opus or MP3");
        }
        if (info.channels < 1 || info.channels > mostFileChannels || info.samplerate < 1'000 || info.samplerate > 768'000) {
            throw FileError(label + ": has " + std::to_string(info.channels) + " channels at " +
                            std::to_string(info.samplerate) + " Hz; 1 to 16 channels at 1 to 768 kHz can be used");
        }
    }
};

SoundDecoder::SoundDecoder(const std::filesystem::path& file) : state_(std::make_unique<State>())
{
    sizeOf(file);
    state_->handle.reset(sf_open(file.c_str(), SFM_READ, &state_->info));
    state_->check(file.string());
}

SoundDecoder::SoundDecoder(std::span<const std::uint8_t> bytes, const std::string& label) : state_(std::make_unique<State>())
{
    requireBytes(bytes.size(), label);
    state_->memory.bytes = bytes;
    using MemoryFile = State::MemoryFile;
    SF_VIRTUAL_IO access{MemoryFile::length, MemoryFile::seek, MemoryFile::read, MemoryFile::write, MemoryFile::tell};
    state_->handle.reset(sf_open_virtual(&access, SFM_READ, &state_->info, &state_->memory));
    state_->check(label);
}

SoundDecoder::~SoundDecoder() = default;

int SoundDecoder::rate() const
{
    return state_->info.samplerate;
}

std::size_t SoundDecoder::channels() const
{
    return static_cast<std::size_t>(state_->info.channels);
}

std::uint64_t SoundDecoder::claimedFrames() const
{
    return static_cast<std::uint64_t>(std::max<sf_count_t>(state_->info.frames, 0));
}

std::size_t SoundDecoder::read(std::span<float> interleaved)
{
    const auto frames = static_cast<sf_count_t>(interleaved.size() / channels());
    const auto got =
        static_cast<std::size_t>(std::max<sf_count_t>(sf_readf_float(state_->handle.get(), interleaved.data(), frames), 0));
    // Float files may hold anything, and decoders may go beyond; one bad sample must not reach the ears or the sums.
    if (isWhole(state_->info.format)) {
        return got;
    }
    for (float& sample : interleaved.first(got * channels())) {
        sample = std::isfinite(sample) ? std::clamp(sample, -loudest, loudest) : 0.0F;
    }
    return got;
}

bool SoundDecoder::seeksExactly() const
{
    const int container = state_->info.format & SF_FORMAT_TYPEMASK;
    return container != SF_FORMAT_OGG && container != SF_FORMAT_MPEG;
}

bool SoundDecoder::seek(std::uint64_t frame)
{
    return sf_seek(state_->handle.get(), static_cast<sf_count_t>(frame), SEEK_SET) >= 0;
}

std::vector<std::uint8_t> bytesOf(const std::filesystem::path& file)
{
    std::vector<std::uint8_t> bytes(sizeOf(file));
    std::ifstream in(file, std::ios::binary);
    in.read(reinterpret_cast<char*>(bytes.data()), static_cast<std::streamsize>(bytes.size()));
    bytes.resize(static_cast<std::size_t>(std::max<std::streamsize>(in.gcount(), 0)));
    requireBytes(bytes.size(), file.string());
    return bytes;
}

} // namespace stone
