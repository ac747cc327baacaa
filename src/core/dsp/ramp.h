// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <span>

namespace stone
{

/// sum[i] += x[i] * (the gain at sample i of a ramp over all of them, which reaches `to` with the one after the last). As many
/// of both. Any thread.
void addRamped(std::span<float> sum, std::span<const float> x, float from, float to);

} // namespace stone
