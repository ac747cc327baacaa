// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/sound_blocks.h"
#include "media/sound_facts.h"

#include <cstddef>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace stone
{

/// Files are read, and samples looked through, so many at a time.
constexpr std::size_t chunkFrames = 16'384;

/// A sound file at the engine's rate: decoded, or as blocks that are decoded when they are needed. Full scale is +-1.
/// Immutable once shared.
struct SampleBuffer {
    int rate = 48'000;                          ///< frames per second
    std::vector<std::vector<float>> channels{}; ///< decoded: at least one, all of one length, at least one frame
    SoundFacts facts{};
    std::string content{}; ///< names what is in the file, see contentOf(); empty: nobody wanted to know
    bool loop = false;     ///< brought to the rate as a loop
    /// The mean of all channels, for places that take one: empty when there is only one channel to begin with.
    std::vector<float> folded{};
    std::shared_ptr<SoundBlocks> blocks{}; ///< null: decoded

    bool decoded() const { return blocks == nullptr; }
    std::size_t frames() const { return blocks ? blocks->frames() : channels.front().size(); }
    std::size_t channelCount() const { return blocks ? blocks->channels() : channels.size(); }
    double seconds() const { return static_cast<double>(frames()) / rate; }
    /// What it takes in memory now.
    std::size_t bytes() const;
    /// Seconds of computing for each second that it is played.
    double cost() const { return blocks ? blocks->cost() : 0.0; }

    /// Decoded only: the sound as one channel.
    const std::vector<float>& mono() const { return folded.empty() ? channels.front() : folded; }

    /// Copies frames of a channel; silence beyond the ends. May wait for the disk: not for the audio thread.
    void read(std::size_t channel, std::size_t first, std::span<float> out) const;
};

using SharedBuffer = std::shared_ptr<const SampleBuffer>;

/// The seam of a loop from one place of a sound to another, the worst of all channels. `to` 0: the end. May wait for the
/// disk.
SeamFacts seamOf(const SampleBuffer& buffer, double from_s, double to_s);

} // namespace stone
