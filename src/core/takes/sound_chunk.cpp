// SPDX-License-Identifier: MPL-2.0
#include "takes/sound_chunk.h"

#include "project/file_error.h"
#include "takes/take_bytes.h"

#include <sndfile.h>

#include <algorithm>
#include <cstring>

namespace stone
{

namespace
{

/// A file in memory for libsndfile.
struct Memory {
    std::string written{};
    std::string_view bytes{};
    std::size_t at = 0;

    std::size_t size() const { return written.empty() ? bytes.size() : written.size(); }

    static sf_count_t length(void* user) { return static_cast<sf_count_t>(static_cast<Memory*>(user)->size()); }
    static sf_count_t seek(sf_count_t offset, int whence, void* user)
    {
        auto& memory = *static_cast<Memory*>(user);
        const auto base = whence == SEEK_SET   ? sf_count_t{0}
                          : whence == SEEK_CUR ? static_cast<sf_count_t>(memory.at)
                                               : static_cast<sf_count_t>(memory.size());
        memory.at = static_cast<std::size_t>(std::max<sf_count_t>(base + offset, 0));
        return static_cast<sf_count_t>(memory.at);
    }
    static sf_count_t read(void* to, sf_count_t count, void* user)
    {
        auto& memory = *static_cast<Memory*>(user);
        const std::size_t from = std::min(memory.at, memory.bytes.size());
        const std::size_t n = std::min(static_cast<std::size_t>(count), memory.bytes.size() - from);
        std::memcpy(to, memory.bytes.data() + from, n);
        memory.at = from + n;
        return static_cast<sf_count_t>(n);
    }
    static sf_count_t write(const void* from, sf_count_t count, void* user)
    {
        auto& memory = *static_cast<Memory*>(user);
        const auto n = static_cast<std::size_t>(count);
        if (memory.written.size() < memory.at + n) {
            memory.written.resize(memory.at + n);
        }
        std::memcpy(memory.written.data() + memory.at, from, n);
        memory.at += n;
        return count;
    }
    static sf_count_t tell(void* user) { return static_cast<sf_count_t>(static_cast<Memory*>(user)->at); }
};

SF_VIRTUAL_IO memoryFile()
{
    return {Memory::length, Memory::seek, Memory::read, Memory::write, Memory::tell};
}

/// No FLAC file has more.
constexpr int mostTogether = 8;

std::vector<float> decodeFlac(std::string_view flac, int channels)
{
    Memory memory;
    memory.bytes = flac;
    SF_VIRTUAL_IO io = memoryFile();
    SF_INFO info{};
    SNDFILE* file = sf_open_virtual(&io, SFM_READ, &info, &memory);
    if (file == nullptr) {
        return {};
    }
    std::vector<float> out;
    // No stretch is longer than some seconds.
    constexpr sf_count_t mostFrames = 1 << 24;
    if (info.channels == channels && info.frames > 0 && info.frames < mostFrames) {
        out.resize(static_cast<std::size_t>(info.frames * info.channels));
        const sf_count_t read = sf_read_float(file, out.data(), static_cast<sf_count_t>(out.size()));
        out.resize(static_cast<std::size_t>(std::max<sf_count_t>(read, 0)));
    }
    sf_close(file);
    return out;
}

} // namespace

std::string encodeSoundFile(std::span<const float> interleaved, int channels, int rate)
{
    Memory memory;
    SF_VIRTUAL_IO io = memoryFile();
    SF_INFO info{};
    info.channels = channels;
    info.samplerate = rate;
    info.format = SF_FORMAT_FLAC | SF_FORMAT_PCM_24;
    SNDFILE* file = sf_open_virtual(&io, SFM_WRITE, &info, &memory);
    if (file == nullptr) {
        throw FileError("the take's sound cannot be kept: " + std::string(sf_strerror(nullptr)));
    }
    double quickly = 0.25; // of the way to the smallest file
    sf_command(file, SFC_SET_COMPRESSION_LEVEL, &quickly, sizeof quickly);
    sf_command(file, SFC_SET_CLIPPING, nullptr, SF_TRUE);
    sf_write_float(file, interleaved.data(), static_cast<sf_count_t>(interleaved.size()));
    sf_close(file);
    return std::move(memory.written);
}

std::string encodeSoundChunk(std::span<const float> interleaved, int channels, int rate)
{
    ByteWriter out;
    const std::size_t frames = interleaved.size() / static_cast<std::size_t>(channels);
    for (int from = 0; from < channels; from += mostTogether) {
        const int n = std::min(mostTogether, channels - from);
        std::vector<float> part(frames * static_cast<std::size_t>(n));
        for (std::size_t i = 0; i < frames; ++i) {
            std::copy_n(interleaved.begin() + static_cast<std::ptrdiff_t>(i) * channels + from, n,
                        part.begin() + static_cast<std::ptrdiff_t>(i) * n);
        }
        out.text(encodeSoundFile(part, n, rate));
    }
    return out.bytes();
}

std::vector<float> decodeSoundChunk(std::string_view chunk, int channels)
{
    ByteReader in(chunk);
    std::vector<float> out;
    std::size_t frames = 0;
    for (int from = 0; from < channels; from += mostTogether) {
        const int n = std::min(mostTogether, channels - from);
        const std::vector<float> part = decodeFlac(in.text(), n);
        if (in.failed() || part.empty()) {
            return {};
        }
        if (from == 0) {
            frames = part.size() / static_cast<std::size_t>(n);
            out.resize(frames * static_cast<std::size_t>(channels));
        }
        for (std::size_t i = 0; i < std::min(frames, part.size() / static_cast<std::size_t>(n)); ++i) {
            std::copy_n(part.begin() + static_cast<std::ptrdiff_t>(i) * n, n,
                        out.begin() + static_cast<std::ptrdiff_t>(i) * channels + from);
        }
    }
    return out;
}

} // namespace stone
