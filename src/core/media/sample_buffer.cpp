// SPDX-License-Identifier: MPL-2.0
#include "media/sample_buffer.h"

#include <algorithm>
#include <cmath>

namespace stone
{

std::size_t SampleBuffer::bytes() const
{
    if (blocks) {
        return blocks->bytes();
    }
    return frames() * (channels.size() + (folded.empty() ? 0 : 1)) * sizeof(float);
}

void SampleBuffer::read(std::size_t channel, std::size_t first, std::span<float> out) const
{
    std::size_t done = 0;
    while (done < out.size() && first + done < frames()) {
        const std::size_t at = first + done;
        SoundBlocks::SharedBlock block;
        std::span<const float> source;
        if (blocks) {
            block = blocks->load(at / blocks->blockFrames());
            source = std::span((*block)[channel]).subspan(at % blocks->blockFrames());
        } else {
            source = std::span(channels[channel]).subspan(at);
        }
        const std::size_t n = std::min(source.size(), out.size() - done);
        if (n == 0) {
            break;
        }
        std::copy_n(source.begin(), n, out.begin() + static_cast<std::ptrdiff_t>(done));
        done += n;
    }
    std::fill(out.begin() + static_cast<std::ptrdiff_t>(done), out.end(), 0.0F);
}

SeamFacts seamOf(const SampleBuffer& buffer, double from_s, double to_s)
{
    if (from_s <= 0.0 && to_s <= 0.0) {
        return buffer.facts.seam;
    }
    const auto frameAt = [&](double seconds) {
        return std::min(static_cast<std::size_t>(std::lround(seconds * buffer.rate)), buffer.frames());
    };
    const std::size_t end = to_s > 0.0 ? frameAt(to_s) : buffer.frames();
    const std::size_t start = std::min(frameAt(from_s), end);
    const std::size_t length = std::min(seamContext(buffer.rate), end - start);
    SeamFacts worst{-100.0, 0.0};
    std::vector<float> before(length);
    std::vector<float> after(length);
    for (std::size_t channel = 0; channel < buffer.channelCount(); ++channel) {
        buffer.read(channel, end - length, before);
        buffer.read(channel, start, after);
        const SeamFacts seam = measureSeam(before, after, buffer.rate);
        worst.step_db = std::max(worst.step_db, seam.step_db);
        worst.spectrum_db = std::max(worst.spectrum_db, seam.spectrum_db);
    }
    return worst;
}

} // namespace stone
