// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <cstddef>
#include <memory>
#include <span>
#include <vector>

struct SRC_STATE_tag;

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

/// Makes one frame of every few while they come, by libsamplerate's longest sinc: what the lower rate cannot carry is taken
/// away before. The first frame that comes out lies at the first that went in.
class Thinning
{
public:
    Thinning(std::size_t channels, std::size_t oneOf);

    /// What can be said of the frames so far, interleaved, until the next call. `last`: no more will come.
    std::span<const float> add(std::span<const float> interleaved, bool last);

    /// For how many frames that come out those that go in must be known on both sides.
    static constexpr std::size_t context = 192;

private:
    struct Free {
        void operator()(SRC_STATE_tag* state) const;
    };
    std::size_t channels_;
    std::size_t oneOf_;
    std::unique_ptr<SRC_STATE_tag, Free> state_;
    std::vector<float> out_;
};

} // namespace stone
