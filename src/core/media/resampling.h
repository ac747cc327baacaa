#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace stone
{

/// From one number of frames per second to another, by libsamplerate's sinc.
struct RateChange {
    int from;
    int to;

    bool none() const { return from == to; }
    /// The least number of frames that is a whole number at both rates: at `from`, and what becomes of it at `to`.
    std::size_t unitFrom() const;
    std::size_t unitTo() const;
    /// How many frames the filter wants to see on both sides: whole units, at `from`.
    std::size_t context() const;
    /// What a length at `from` is at `to`; at least 1.
    std::size_t framesOf(std::size_t frames) const;
};

/// Brings one channel to the other rate. `padded` has change.context() frames of what comes before and after. Gives
/// `wanted` frames, of which the first lies at the first frame after the context. Throws FileError.
std::vector<float> resample(std::span<const float> padded, const RateChange& change, std::size_t wanted);

} // namespace stone
