// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "media/sample_buffer.h"

#include <utility>
#include <vector>

namespace stone
{

/// The smallest and largest samples of a sound over stretches of every size, so that it can be drawn at any zoom in time
/// that grows with the picture, not with the sound. Making it takes time in proportion to the sound; any thread.
class PeakPyramid
{
public:
    explicit PeakPyramid(const SharedBuffer& buffer);

    /// The smallest and largest sample of a stretch of frames.
    using Stretches = std::vector<std::pair<float, float>>;
    /// Of what was gathered before: finest(), by channel, of the same sound.
    PeakPyramid(SharedBuffer buffer, std::vector<Stretches> finest);
    static std::size_t stretchesOf(std::size_t frames) { return (frames + base - 1) / base; }
    std::vector<Stretches> finest() const;

    /// Over frames [from, to) of a channel, to within the stretch of frames that a question this size is answered from.
    std::pair<float, float> range(std::size_t channel, std::size_t from, std::size_t to) const;

    const SampleBuffer& buffer() const { return *buffer_; }

private:
    static constexpr std::size_t base = 64;  ///< frames of the finest level
    static constexpr std::size_t factor = 4; ///< from level to level

    void build();

    SharedBuffer buffer_;
    std::vector<std::vector<Stretches>> levels_; ///< by channel, finest first
};

} // namespace stone
