// SPDX-License-Identifier: MPL-2.0
#include "dsp/delay_read.h"

#include "dsp/wide.h"

#include <cstdint>

namespace stone
{

namespace
{

inline float delayAt(float from, float slope, std::size_t i)
{
    return from + slope * static_cast<float>(static_cast<std::int32_t>(i));
}

inline std::int32_t wholeAt(float from, float slope, std::size_t i)
{
    return static_cast<std::int32_t>(delayAt(from, slope, i));
}

inline float between(float at, float before, float part)
{
    return at * (1.0F - part) + before * part;
}

/// From `first` on as many as there are in `out`, of which all lie the same number of whole frames back.
STONE_WIDE void readStretch(const float* samples, float from, float slope, std::size_t first, std::int32_t whole,
                            std::span<float> out)
{
    const auto begin = static_cast<std::int32_t>(first);
    for (std::size_t i = 0; i < out.size(); ++i) {
        const float delay = from + slope * static_cast<float>(begin + static_cast<std::int32_t>(i));
        out[i] = between(samples[i], *(samples + i - 1), delay - static_cast<float>(whole));
    }
}

} // namespace

STONE_WIDE void readStanding(const float* samples, float part, std::span<float> out)
{
    for (std::size_t i = 0; i < out.size(); ++i) {
        out[i] = between(samples[i], *(samples + i - 1), part);
    }
}

void readMoving(std::span<const float> line, std::size_t at, float from, float slope, std::span<float> out)
{
    const std::size_t mask = line.size() - 1;
    // The delay goes one way only, so where it is as many whole frames at both ends of a stretch it is in between; what moves
    // no faster than people do has few such stretches in a block.
    for (std::size_t first = 0; first < out.size();) {
        const std::int32_t whole = wholeAt(from, slope, first);
        std::size_t last = out.size() - 1;
        while (wholeAt(from, slope, last) != whole) {
            last = first + (last - first) / 2;
        }
        const std::size_t count = last - first + 1;
        const std::size_t start = (at + first - static_cast<std::size_t>(whole)) & mask;
        if (start > 0 && start + count <= line.size()) {
            readStretch(line.data() + start, from, slope, first, whole, out.subspan(first, count));
        } else {
            for (std::size_t i = first; i <= last; ++i) {
                const std::size_t place = at + i - static_cast<std::size_t>(whole);
                out[i] =
                    between(line[place & mask], line[(place - 1) & mask], delayAt(from, slope, i) - static_cast<float>(whole));
            }
        }
        first = last + 1;
    }
}

} // namespace stone
