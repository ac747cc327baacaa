// SPDX-License-Identifier: MPL-2.0
#include "dsp/ramp.h"

#include "dsp/wide.h"

namespace stone
{

STONE_WIDE void addRamped(std::span<float> sum, std::span<const float> x, float from, float to)
{
    const float slope = (to - from) / static_cast<float>(static_cast<int>(sum.size()));
    for (std::size_t i = 0; i < sum.size(); ++i) {
        sum[i] += x[i] * (from + slope * static_cast<float>(static_cast<int>(i)));
    }
}

} // namespace stone
