#pragma once

#include "media/sound_facts.h"

#include <cstddef>
#include <memory>
#include <vector>

namespace stone
{

/// Decoded sound at the engine's rate. Full scale is +-1. Immutable once shared.
struct SampleBuffer {
    int rate = 48'000;                        ///< frames per second
    std::vector<std::vector<float>> channels; ///< at least one, all of one length, at least one frame
    SoundFacts facts{};
    float peak = 0.0F; ///< largest absolute sample of all channels, as the file has it
    /// The mean of all channels, for places that take one: empty when there is only one channel to begin with.
    std::vector<float> folded;

    std::size_t frames() const { return channels.front().size(); }
    double seconds() const { return static_cast<double>(frames()) / rate; }
    /// The sound as one channel.
    const std::vector<float>& mono() const { return folded.empty() ? channels.front() : folded; }
};

using SharedBuffer = std::shared_ptr<const SampleBuffer>;

} // namespace stone
