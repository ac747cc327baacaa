// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/all_pass.h"
#include "dsp/trapezoid.h"

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace stone
{

/// The late field of a room: a feedback delay network (J.-M. Jot and A. Chaigne, AES 90th Convention, 1991) of 16 lines with
/// an orthogonal matrix (Hadamard), in whose loop each line loses in each octave band what its length costs at the decay that
/// was asked for. What goes in is diffused by all-passes first, so that echoes become dense soon.
///
/// Works a block at a time: no line is shorter than a block. Owns its memory; process() allocates nothing.
class LateNetwork
{
public:
    static constexpr std::size_t lines = 16;
    static constexpr std::size_t bands = 8;
    static constexpr std::size_t shelves = bands - 1;
    static constexpr std::size_t blockFrames = 256;
    /// Signals that come out, alike in level and unlike in everything else.
    static constexpr std::size_t outputs = 16;
    /// So many of them make up the field all round, the next one is what is heard through openings.
    static constexpr std::size_t surround = 8;

    /// Whatever goes in has come out of the pre-delay and of every line once by then.
    static constexpr double longestLine_s = 0.8;

    using PerLine = std::array<float, lines>;

    /// What each line loses in a pass: logarithms of a gain and of that of a shelf at each border between two bands; see
    /// BandFilter. On a logarithmic scale what lies between two sets loses something between the two.
    struct Losses {
        PerLine gain{};
        std::array<PerLine, shelves> shelf{};
        bool operator==(const Losses&) const = default;
    };

    /// What a room asks for. Immutable.
    struct Design {
        std::array<std::uint32_t, lines> delays{}; ///< frames, mutually prime at 48 kHz, each at least a block
        Losses losses;
        std::uint32_t preDelay = 0; ///< frames before the lines
        float gain = 0.0F;          ///< of what goes in
    };

    /// RT60 by octave band, 63 Hz to 8 kHz, seconds, > 0. `volume_m3`: > 0; with it the level is that of a diffuse field:
    /// for a source of unit pressure at 1 m the squares of eight outputs add up, over time, to 16 pi / A, A = 0.161 V / RT60
    /// (H. Kuttruff, Room Acoustics, the reverberant field of a point source). `preDelay_s`: counted to the first of the late
    /// sound, as far as the shortest line lets it. Costs some 400 microseconds: not for the control thread.
    static Design design(const std::array<double, bands>& rt60_s, double volume_m3, double preDelay_s, double rate);

    explicit LateNetwork(double rate);

    /// Silence, as if nothing had ever sounded.
    void reset();

    using Block = std::array<float, blockFrames>;
    /// Goes on by a block. `out`: by output; overwritten. The losses glide to those of the design in some 0.3 s.
    void process(const Block& in, const Design& design, std::array<Block, outputs>& out) noexcept;

    /// Mean square of what is in the lines, as of the last block: what has decayed need not be gone on with.
    float energy() const { return energy_; }

    /// A shelf of all lines.
    using Shelf = TrapezoidMix<PerLine>;
    /// And what it remembers.
    struct Memory {
        PerLine first;
        PerLine second;
    };

private:
    void glide(const Losses& target) noexcept;
    void setShelves() noexcept;

    std::vector<AllPass> diffusers_;
    std::vector<float> before_; ///< the pre-delay's line
    std::size_t beforeAt_ = 0;
    std::array<std::vector<float>, lines> line_;
    std::size_t at_ = 0;                   ///< next frame to be written, in all lines
    std::array<float, shelves> borders_{}; ///< integrator gains at the bands' borders
    Losses losses_;
    PerLine lineGain_{};
    std::array<Shelf, shelves> shelf_{};
    float gain_ = 0.0F; ///< of what goes in, at the end of the last block
    bool fresh_ = true;
    std::array<Memory, shelves> memory_{};
    std::array<PerLine, blockFrames> frames_{};
    float energy_ = 0.0F;
};

} // namespace stone
