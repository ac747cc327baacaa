#include "media/true_peak.h"

#include <ebur128.h>

#include <algorithm>
#include <memory>

namespace stone
{

namespace
{

constexpr std::size_t chunkFrames = 16'384;

struct Destroy {
    void operator()(ebur128_state* state) const { ebur128_destroy(&state); }
};

} // namespace

double truePeak(const SampleBuffer& buffer)
{
    const std::unique_ptr<ebur128_state, Destroy> state(
        ebur128_init(1, static_cast<unsigned long>(buffer.rate), EBUR128_MODE_TRUE_PEAK));
    std::vector<float> chunk(chunkFrames);
    // Stretch by stretch over all channels would decode once, but the filter wants one channel after another.
    double largest = 0.0;
    for (std::size_t channel = 0; channel < buffer.channelCount(); ++channel) {
        for (std::size_t start = 0; start < buffer.frames(); start += chunkFrames) {
            const std::size_t n = std::min(chunkFrames, buffer.frames() - start);
            buffer.read(channel, start, std::span(chunk).first(n));
            double peak = 0.0;
            if (ebur128_add_frames_float(state.get(), chunk.data(), n) == EBUR128_SUCCESS &&
                ebur128_prev_true_peak(state.get(), 0, &peak) == EBUR128_SUCCESS) {
                largest = std::max(largest, peak);
            }
        }
    }
    return largest;
}

} // namespace stone
