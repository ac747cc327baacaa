// SPDX-License-Identifier: MPL-2.0
#include "media/sound_file.h"

#include "project/file_error.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr std::size_t mostSamples = 256U << 20U; // 1 GiB of float

/// A file's channels side by side, as they are in it. `measure`: what is to be told of each frame; may be null.
std::vector<std::vector<float>> decode(SoundDecoder& decoder, const std::filesystem::path& file, int rate,
                                       const StopAsked& stop, SoundMeasure* measure)
{
    const std::string label = file.string();
    std::error_code error;
    const auto size = std::filesystem::file_size(file, error);
    const std::uint64_t bytes = error ? 0 : size;
    // What counts is what it comes to at the rate at which it is kept.
    const double grows = std::max(1.0, static_cast<double>(rate) / decoder.rate());
    const std::size_t width = decoder.channels();
    const auto most = static_cast<std::size_t>(mostSamples / grows) / width;
    std::vector<std::vector<float>> planes(width);
    // What the header claims saves growing, as far as the file can hold it by its size; no more than that is believed.
    const auto likely = std::min<std::uint64_t>({decoder.claimedFrames(), bytes / width, most});
    for (std::vector<float>& plane : planes) {
        plane.reserve(static_cast<std::size_t>(likely));
    }
    std::vector<float> chunk(chunkFrames * width);
    std::vector<float> lane(chunkFrames);
    std::size_t frames = 0;
    while (const std::size_t got = decoder.read(chunk)) {
        if (stop && stop()) {
            throw FileError(label + ": is not read any more");
        }
        if (frames + got > most) {
            throw FileError(label + ": longer than fits into memory (1 GiB decoded); stream it, or cut it into shorter files");
        }
        if (measure != nullptr) {
            measure->add(std::span(chunk).first(got * width));
        }
        for (std::size_t channel = 0; channel < width; ++channel) {
            for (std::size_t i = 0; i < got; ++i) {
                lane[i] = chunk[i * width + channel];
            }
            planes[channel].insert(planes[channel].end(), lane.begin(), lane.begin() + static_cast<std::ptrdiff_t>(got));
        }
        frames += got;
    }
    if (frames == 0) {
        throw FileError(label + ": holds no sound, whatever its header claims; export it again");
    }
    return planes;
}

/// A whole channel at the other rate; around it a loop's other end, or silence, so that the filter never sees an edge that
/// is not in the sound.
std::vector<float> resampled(std::vector<float> in, const RateChange& change, bool loop)
{
    if (change.none()) {
        return in;
    }
    const std::size_t context = change.context();
    std::vector<float> padded(in.size() + 2 * context, 0.0F);
    const auto n = static_cast<std::ptrdiff_t>(in.size());
    for (std::size_t i = 0; i < padded.size(); ++i) {
        const auto at = static_cast<std::ptrdiff_t>(i) - static_cast<std::ptrdiff_t>(context);
        if (loop) {
            padded[i] = in[static_cast<std::size_t>(((at % n) + n) % n)];
        } else if (at >= 0 && at < n) {
            padded[i] = in[static_cast<std::size_t>(at)];
        }
    }
    return resample(padded, change, change.framesOf(in.size()));
}

std::string contentFor(const std::filesystem::path& file, const Measuring& measuring, const StopAsked& stop)
{
    return measuring.store ? contentOf(file, stop) : std::string();
}

std::optional<Measured> find(const Measuring& measuring, const std::string& content)
{
    return measuring.store ? measuring.store->find(content) : std::nullopt;
}

void keep(const Measuring& measuring, const std::string& content, const Measured& measured)
{
    if (measuring.store && measuring.what == Measure::all) {
        measuring.store->keep(content, measured);
    }
}

} // namespace

SharedBuffer readSoundFile(const std::filesystem::path& file, int rate, bool loop, const StopAsked& stop,
                           const Measuring& measuring)
{
    SoundDecoder decoder(file);
    const std::size_t channels = decoder.channels();
    const RateChange change{decoder.rate(), rate};
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = rate;
    buffer->loop = loop;
    buffer->content = contentFor(file, measuring, stop);
    const std::optional<Measured> known = find(measuring, buffer->content);
    std::optional<SoundMeasure> measure;
    if (!known) {
        measure.emplace(channels, decoder.rate(), measuring.what);
    }
    std::vector<std::vector<float>> planes = decode(decoder, file, rate, stop, measure ? &*measure : nullptr);
    if (known) {
        buffer->facts = known->facts;
    } else {
        buffer->facts = measure->facts();
        keep(measuring, buffer->content, {buffer->facts, planes.front().size(), 0.0});
    }
    for (std::vector<float>& plane : planes) {
        buffer->channels.push_back(resampled(std::move(plane), change, loop));
    }
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

SharedBuffer openSoundFile(const std::filesystem::path& file, int rate, bool loop, Keeping keeping,
                           const std::shared_ptr<BlockLoader>& loader, const StopAsked& stop, const Measuring& measuring)
{
    if (keeping == Keeping::automatic) {
        const SoundDecoder decoder(file);
        const double seconds = static_cast<double>(decoder.claimedFrames()) / decoder.rate();
        keeping = seconds > longSound_s ? Keeping::streamed : Keeping::decoded;
    }
    if (keeping == Keeping::decoded) {
        return readSoundFile(file, rate, loop, stop, measuring);
    }
    const auto source = keeping == Keeping::streamed ? SoundBlocks::Source::disk : SoundBlocks::Source::memory;
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = rate;
    buffer->loop = loop;
    buffer->content = contentFor(file, measuring, stop);
    const std::optional<Measured> known = find(measuring, buffer->content);
    buffer->blocks = SoundBlocks::open(file, rate, loop, source, loader, stop, {measuring.what, known});
    buffer->facts = buffer->blocks->measured().facts;
    if (!known || known->cost <= 0.0) {
        keep(measuring, buffer->content, buffer->blocks->measured());
    }
    return buffer;
}

} // namespace stone
