#include "dsp/delay_read.h"

#include "dsp/wide.h"

#include <cstdint>

namespace stone
{

STONE_WIDE void readStanding(const float* samples, float part, std::span<float> out)
{
    for (std::size_t i = 0; i < out.size(); ++i) {
        out[i] = samples[i] * (1.0F - part) + *(samples + i - 1) * part;
    }
}

STONE_WIDE void readMoving(std::span<const float> line, std::size_t at, float from, float slope, std::span<float> out)
{
    const float* samples = line.data();
    const auto mask = static_cast<std::uint32_t>(line.size() - 1);
    const auto start = static_cast<std::uint32_t>(at);
    const auto frames = static_cast<std::uint32_t>(out.size());
    for (std::uint32_t i = 0; i < frames; ++i) {
        const float delay = from + slope * static_cast<float>(static_cast<std::int32_t>(i));
        const auto whole = static_cast<std::int32_t>(delay);
        const float part = delay - static_cast<float>(whole);
        const std::uint32_t place = start + i - static_cast<std::uint32_t>(whole);
        out[i] = samples[place & mask] * (1.0F - part) + samples[(place - 1) & mask] * part;
    }
}

} // namespace stone
