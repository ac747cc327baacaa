// SPDX-License-Identifier: MPL-2.0
#include "media/true_peak.h"

#include <ebur128.h>

#include <algorithm>
#include <memory>

namespace stone
{

namespace
{

struct Destroy {
    void operator()(ebur128_state* state) const { ebur128_destroy(&state); }
};

} // namespace

double truePeak(const SampleBuffer& buffer)
{
    const std::size_t channels = buffer.channelCount();
    const std::unique_ptr<ebur128_state, Destroy> state(
        ebur128_init(static_cast<unsigned>(channels), static_cast<unsigned long>(buffer.rate), EBUR128_MODE_TRUE_PEAK));
    std::vector<float> plane(chunkFrames);
    std::vector<float> interleaved(chunkFrames * channels);
    // Stretch by stretch over all channels, so that what is not kept decoded is decoded once.
    for (std::size_t start = 0; start < buffer.frames(); start += chunkFrames) {
        const std::size_t n = std::min(chunkFrames, buffer.frames() - start);
        for (std::size_t channel = 0; channel < channels; ++channel) {
            buffer.read(channel, start, std::span(plane).first(n));
            for (std::size_t i = 0; i < n; ++i) {
                interleaved[i * channels + channel] = plane[i];
            }
        }
        ebur128_add_frames_float(state.get(), interleaved.data(), n);
    }
    double largest = 0.0;
    for (std::size_t channel = 0; channel < channels; ++channel) {
        double peak = 0.0;
        if (ebur128_true_peak(state.get(), static_cast<unsigned>(channel), &peak) == EBUR128_SUCCESS) {
            largest = std::max(largest, peak);
        }
    }
    return largest;
}

} // namespace stone
