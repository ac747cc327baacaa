// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/sample_buffer.h"

#include <cstdint>
#include <optional>
#include <vector>

namespace stone
{

/// The next stretch of one voice's sound when that is not kept decoded, laid out as it will be heard: a loop's joints are
/// already made. A ring that the control thread fills ahead of where the audio thread reads.
class StreamLine
{
public:
    /// What is read from the sound. Places are frames since its start, loops unrolled.
    struct Source {
        const SampleBuffer& audio;
        std::optional<std::size_t> channel; ///< nothing: the mean of all
        bool loops = false;
        std::int64_t loopFrom = 0;
        std::int64_t loopEnd = 0;
    };

    static constexpr std::size_t ringFrames = 65'536;

    /// The first place that will be asked for.
    explicit StreamLine(double place);

    /// Whether the sound at a place is there; if not, it has been asked for.
    static bool ready(const Source& source, double place);

    /// Fills the ring up to a place; returns how many frames had to stay silent because they were not there. With `wait`
    /// they are waited for instead. Control thread.
    std::size_t fill(const Source& source, double until, bool wait);

    /// For the audio thread: the ring, to be read round and round, and where in it a place is.
    const float* samples() const { return ring_.data(); }
    double positionOf(double place) const { return place - static_cast<double>(first_); }

private:
    static std::int64_t folded(const Source& source, std::int64_t place);
    std::size_t copy(const Source& source, std::int64_t frame, std::size_t count, bool wait);
    void put(std::size_t offset, float sample)
    {
        ring_[(static_cast<std::size_t>(filled_ - first_) + offset) % ringFrames] = sample;
    }

    std::vector<float> ring_;
    std::int64_t first_;  ///< place of the ring's first frame, on its first round
    std::int64_t filled_; ///< all places before this are in the ring
};

} // namespace stone
