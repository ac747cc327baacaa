#include "media/sound_file.h"

#include "project/file_error.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr std::size_t mostSamples = 256U << 20U; // 1 GiB of float

std::vector<float> decode(SoundDecoder& decoder, const std::string& label, int rate, const StopAsked& stop)
{
    // What counts is what it comes to at the rate at which it is kept.
    const double grows = std::max(1.0, static_cast<double>(rate) / decoder.rate());
    const auto most = static_cast<std::size_t>(mostSamples / grows);
    std::vector<float> interleaved;
    std::vector<float> chunk(chunkFrames * decoder.channels());
    while (const std::size_t got = decoder.read(chunk)) {
        const std::size_t samples = got * decoder.channels();
        if (stop && stop()) {
            throw FileError(label + ": is not read any more");
        }
        if (interleaved.size() + samples > most) {
            throw FileError(label + ": longer than fits into memory (1 GiB decoded); stream it, or cut it into shorter files");
        }
        interleaved.insert(interleaved.end(), chunk.begin(), chunk.begin() + static_cast<std::ptrdiff_t>(samples));
    }
    if (interleaved.empty()) {
        throw FileError(label + ": holds no sound, whatever its header claims; export it again");
    }
    return interleaved;
}

/// A whole channel at the other rate; around it a loop's other end, or silence, so that the filter never sees an edge that
/// is not in the sound.
std::vector<float> resampled(const std::vector<float>& in, const RateChange& change, bool loop)
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

} // namespace

SharedBuffer readSoundFile(const std::filesystem::path& file, int rate, bool loop, const StopAsked& stop)
{
    SoundDecoder decoder(file);
    const std::vector<float> interleaved = decode(decoder, file.string(), rate, stop);
    const std::size_t channels = decoder.channels();
    const RateChange change{decoder.rate(), rate};
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = rate;
    SoundMeasure measure(channels, decoder.rate());
    measure.add(interleaved);
    buffer->facts = measure.facts();
    for (std::size_t channel = 0; channel < channels; ++channel) {
        std::vector<float> plane(interleaved.size() / channels);
        for (std::size_t i = 0; i < plane.size(); ++i) {
            plane[i] = interleaved[i * channels + channel];
        }
        buffer->channels.push_back(resampled(plane, change, loop));
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
                           const std::shared_ptr<BlockLoader>& loader, const StopAsked& stop)
{
    if (keeping == Keeping::automatic) {
        const SoundDecoder decoder(file);
        const double seconds = static_cast<double>(decoder.claimedFrames()) / decoder.rate();
        keeping = seconds > longSound_s ? Keeping::streamed : Keeping::decoded;
    }
    if (keeping == Keeping::decoded) {
        return readSoundFile(file, rate, loop, stop);
    }
    const auto source = keeping == Keeping::streamed ? SoundBlocks::Source::disk : SoundBlocks::Source::memory;
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = rate;
    buffer->blocks = SoundBlocks::open(file, rate, loop, source, loader, stop);
    buffer->facts = buffer->blocks->facts();
    return buffer;
}

} // namespace stone
