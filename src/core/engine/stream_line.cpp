// SPDX-License-Identifier: MPL-2.0
#include "engine/stream_line.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{
/// What the reader looks at before a place.
constexpr std::int64_t before = 16;
} // namespace

StreamLine::StreamLine(double place)
    : ring_(ringFrames, 0.0F), first_(static_cast<std::int64_t>(std::floor(place)) - before), filled_(first_)
{
}

std::int64_t StreamLine::folded(const Source& source, std::int64_t place)
{
    if (!source.loops || place < source.loopEnd) {
        return place;
    }
    return source.loopFrom + (place - source.loopFrom) % (source.loopEnd - source.loopFrom);
}

bool StreamLine::ready(const Source& source, double place)
{
    SoundBlocks& blocks = *source.audio.blocks;
    const std::int64_t frame = folded(source, std::max<std::int64_t>(static_cast<std::int64_t>(std::floor(place)), 0));
    const auto index = static_cast<std::size_t>(frame) / blocks.blockFrames();
    return static_cast<std::size_t>(frame) >= source.audio.frames() || blocks.get(index) != nullptr;
}

/// Copies frames that lie in one block; returns how many of them were not there.
std::size_t StreamLine::copy(const Source& source, std::int64_t frame, std::size_t count, bool wait)
{
    SoundBlocks& blocks = *source.audio.blocks;
    const auto index = static_cast<std::size_t>(frame) / blocks.blockFrames();
    const auto at = static_cast<std::size_t>(frame) % blocks.blockFrames();
    const SoundBlocks::SharedBlock block = wait ? blocks.load(index) : blocks.get(index);
    if (!block) {
        for (std::size_t i = 0; i < count; ++i) {
            put(i, 0.0F);
        }
        return count;
    }
    const std::size_t channels = block->size();
    for (std::size_t i = 0; i < count; ++i) {
        float sample = 0.0F;
        if (source.channel) {
            sample = (*block)[*source.channel][at + i];
        } else {
            for (const std::vector<float>& plane : *block) {
                sample += plane[at + i] / static_cast<float>(channels);
            }
        }
        put(i, sample);
    }
    return 0;
}

std::size_t StreamLine::fill(const Source& source, double until, bool wait)
{
    const auto target = static_cast<std::int64_t>(std::ceil(until));
    const auto end = static_cast<std::int64_t>(source.audio.frames());
    const auto block = static_cast<std::int64_t>(source.audio.blocks->blockFrames());
    std::size_t missing = 0;
    while (filled_ < target) {
        const std::int64_t frame = folded(source, filled_);
        auto count = static_cast<std::size_t>(target - filled_);
        const bool silent = frame < 0 || frame >= end;
        if (silent) {
            count = frame < 0 ? std::min(count, static_cast<std::size_t>(-frame)) : count;
            for (std::size_t i = 0; i < count; ++i) {
                put(i, 0.0F);
            }
        } else {
            const std::int64_t last = std::min(source.loops ? std::min(source.loopEnd, end) : end, (frame / block + 1) * block);
            count = std::min(count, static_cast<std::size_t>(last - frame));
            missing += copy(source, frame, count, wait);
        }
        filled_ += static_cast<std::int64_t>(count);
    }
    return missing;
}

} // namespace stone
