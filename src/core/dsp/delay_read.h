// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>
#include <span>

/// Reads out of a delay line, between samples by a straight line. Any thread; nothing is allocated.
namespace stone
{

/// Each sample lies `part` of the way from its place to the one before; `samples[-1]` is read too.
void readStanding(const float* samples, float part, std::span<float> out);

/// The sample that belongs to `out[i]` lies `from + slope i` frames, 0 or more, before frame `at + i` of the line, which goes
/// round and whose length is a power of two.
void readMoving(std::span<const float> line, std::size_t at, float from, float slope, std::span<float> out);

} // namespace stone
