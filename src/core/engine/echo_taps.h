// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/band_filter.h"
#include "spatial/layout.h"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace stone
{

/// One reflection in one step: the same sound later, weaker and from elsewhere.
struct EchoTap {
    std::uint32_t name = 0; ///< the same from step to step for the same walls; never 0
    int bounces = 1;        ///< 1 or 2
    float delay = 0.0F;     ///< frames after the sound itself, at the end of the step
    ChannelGains gains{};
};

/// The single reflections of one sound: a line of delays with places where it is read, for sound that bounced once and for
/// sound that bounced twice. Reflections glide to where they are asked for, come up from silence and go back to it; whatever
/// jumps comes up anew. Owns its memory; process() allocates nothing.
class EchoTaps
{
public:
    static constexpr std::size_t blockFrames = 256;
    static constexpr std::size_t most = 24;
    /// Longest delay.
    static constexpr double longest_s = 0.35;
    using Block = std::array<float, blockFrames>;

    explicit EchoTaps(double rate);

    /// Silence, as if nothing had ever sounded.
    void reset();

    /// What each bounce takes.
    using Losses = std::array<BandFilter::Settings, 2>;
    /// Takes a block in and adds the reflections of what has gone in to the first channels of `sums`.
    void process(const Block& in, std::span<const EchoTap> taps, const Losses& losses, std::span<Block> sums) noexcept;

private:
    struct Reader {
        EchoTap tap; ///< where it is and how loud, at the end of the last block
        ChannelGains target{};
        float delayTo = 0.0F;
        bool on = false;
    };

    void aim(std::span<const EchoTap> taps) noexcept;
    void read(Reader& reader, std::span<Block> sums) noexcept;

    double rate_;
    std::size_t mask_;
    std::array<std::vector<float>, 2> lines_; ///< after one bounce and after two
    std::size_t at_ = 0;                      ///< next frame to be written
    std::array<BandFilter, 2> filters_;
    Losses losses_{};
    bool fresh_ = true;
    std::array<Reader, 2 * most> readers_{}; ///< twice: those that fade away are read too
    std::array<Block, 2> bounced_{};
    Block scratch_{};
};

} // namespace stone
