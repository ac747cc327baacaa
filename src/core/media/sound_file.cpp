#include "media/sound_file.h"

#include "project/file_error.h"

#include <samplerate.h>
#include <sndfile.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace stone
{

namespace
{

constexpr std::size_t chunkFrames = 16'384;
constexpr std::size_t mostSamples = 256U << 20U; // 1 GiB of float
constexpr int mostFileChannels = 16;

struct Decoded {
    int rate = 0;
    int channels = 0;
    std::vector<float> interleaved;
};

struct CloseFile {
    void operator()(SNDFILE* file) const { sf_close(file); }
};

Decoded decode(const std::filesystem::path& file)
{
    const std::string label = file.string();
    std::error_code error;
    const auto size = std::filesystem::file_size(file, error);
    if (error) {
        throw FileError(label + ": the sound cannot be read (" + error.message() + "); choose the file again");
    }
    if (size == 0) {
        throw FileError(label + ": the sound is empty (0 bytes); export it again");
    }
    SF_INFO info{};
    const std::unique_ptr<SNDFILE, CloseFile> handle(sf_open(file.c_str(), SFM_READ, &info));
    if (!handle) {
        std::string why = sf_strerror(nullptr);
        std::replace(why.begin(), why.end(), '\n', ' ');
        throw FileError(label + ": not a sound file that can be read (" + why + "); use WAV, FLAC, Ogg, Opus or MP3");
    }
    if (info.channels < 1 || info.channels > mostFileChannels || info.samplerate < 1'000 || info.samplerate > 768'000) {
        throw FileError(label + ": has " + std::to_string(info.channels) + " channels at " + std::to_string(info.samplerate) +
                        " Hz; 1 to 16 channels at 1 to 768 kHz can be used");
    }
    Decoded decoded{info.samplerate, info.channels, {}};
    const auto channels = static_cast<std::size_t>(info.channels);
    std::vector<float> chunk(chunkFrames * channels);
    for (;;) {
        const sf_count_t got = sf_readf_float(handle.get(), chunk.data(), chunkFrames);
        if (got <= 0) {
            break;
        }
        const auto samples = static_cast<std::size_t>(got) * channels;
        if (decoded.interleaved.size() + samples > mostSamples) {
            throw FileError(label + ": longer than fits into memory (1 GiB decoded); cut it into shorter files");
        }
        decoded.interleaved.insert(decoded.interleaved.end(), chunk.begin(),
                                   chunk.begin() + static_cast<std::ptrdiff_t>(samples));
    }
    if (decoded.interleaved.empty()) {
        throw FileError(label + ": holds no sound, whatever its header claims; export it again");
    }
    // Float files may hold anything; one bad sample must not reach the ears or the sums.
    for (float& sample : decoded.interleaved) {
        sample = std::isfinite(sample) ? std::clamp(sample, -16.0F, 16.0F) : 0.0F;
    }
    return decoded;
}

/// Brings one channel from `from` to `to` frames per second.
std::vector<float> resample(const std::vector<float>& in, int from, int to, bool loop)
{
    if (from == to) {
        return in;
    }
    const double ratio = static_cast<double>(to) / from;
    const auto wanted = static_cast<std::size_t>(std::max<long>(1, std::lround(static_cast<double>(in.size()) * ratio)));
    // Context on both sides, of a length that is a whole number of frames at both rates: the loop's other end, or
    // silence, so that the filter never sees an edge that is not in the sound.
    const int unit = from / std::gcd(from, to);
    const std::size_t pad = static_cast<std::size_t>(unit) * static_cast<std::size_t>(1 + 512 / unit);
    std::vector<float> padded(in.size() + 2 * pad, 0.0F);
    for (std::size_t i = 0; i < padded.size(); ++i) {
        const auto at = static_cast<std::ptrdiff_t>(i) - static_cast<std::ptrdiff_t>(pad);
        const auto n = static_cast<std::ptrdiff_t>(in.size());
        if (loop) {
            padded[i] = in[static_cast<std::size_t>(((at % n) + n) % n)];
        } else if (at >= 0 && at < n) {
            padded[i] = in[static_cast<std::size_t>(at)];
        }
    }
    std::vector<float> out(static_cast<std::size_t>(std::ceil(static_cast<double>(padded.size()) * ratio)) + 16, 0.0F);
    SRC_DATA data{};
    data.data_in = padded.data();
    data.input_frames = static_cast<long>(padded.size());
    data.data_out = out.data();
    data.output_frames = static_cast<long>(out.size());
    data.src_ratio = ratio;
    if (const int error = src_simple(&data, SRC_SINC_MEDIUM_QUALITY, 1); error != 0) {
        throw FileError(std::string("a sound cannot be resampled (") + src_strerror(error) +
                        "); convert it to the engine's rate");
    }
    const auto skip = static_cast<std::ptrdiff_t>(std::lround(static_cast<double>(pad) * ratio));
    out.resize(std::max(out.size(), static_cast<std::size_t>(skip) + wanted), 0.0F);
    return {out.begin() + skip, out.begin() + skip + static_cast<std::ptrdiff_t>(wanted)};
}

} // namespace

SharedBuffer readSoundFile(const std::filesystem::path& file, int rate, bool loop)
{
    const Decoded decoded = decode(file);
    const auto channels = static_cast<std::size_t>(decoded.channels);
    const std::size_t frames = decoded.interleaved.size() / channels;
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = rate;
    for (const float sample : decoded.interleaved) {
        buffer->peak = std::max(buffer->peak, std::abs(sample));
    }
    for (std::size_t channel = 0; channel < channels; ++channel) {
        std::vector<float> plane(frames);
        for (std::size_t i = 0; i < frames; ++i) {
            plane[i] = decoded.interleaved[i * channels + channel];
        }
        buffer->channels.push_back(resample(plane, decoded.rate, rate, loop));
    }
    buffer->facts = measureSound(buffer->channels, rate);
    if (channels > 1) {
        buffer->folded.assign(buffer->frames(), 0.0F);
        for (const auto& plane : buffer->channels) {
            for (std::size_t i = 0; i < plane.size(); ++i) {
                buffer->folded[i] += plane[i] / static_cast<float>(channels);
            }
        }
    }
    return buffer;
}

} // namespace stone
