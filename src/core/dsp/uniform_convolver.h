// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/fft.h"

#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace stone
{

/// Convolution with long responses, uniformly partitioned (W. G. Gardner, JAES 43, 1995; F. Wefers, "Partitioned convolution
/// algorithms for real-time auralization", 2015): the response is cut into blocks, each is kept as its spectrum, and the
/// spectra of the last so many blocks of input are multiplied with them and summed. What comes out belongs to the block
/// that went in: whoever works in blocks waits for nothing more. The same input may go through several responses.
///
/// process() and out() allocate nothing.
class UniformConvolver
{
public:
    static constexpr std::size_t blockFrames = 256;
    using Block = std::array<float, blockFrames>;

    /// A response as its spectra. Immutable.
    class Response
    {
    public:
        /// Allocates; costs a transform for each block.
        explicit Response(std::span<const float> samples);
        std::size_t partitions() const { return partitions_; }

    private:
        friend class UniformConvolver;
        std::size_t partitions_;
        std::vector<float> real_; ///< partition after partition
        std::vector<float> imaginary_;
    };

    /// For responses of up to so many partitions.
    explicit UniformConvolver(std::size_t partitions);

    /// Silence, as if nothing had ever gone in.
    void reset();
    /// The longest delay.
    static constexpr std::size_t mostDelay = (1U << 16U) - blockFrames;
    /// Takes the next block in, so many frames late. The same delay each time.
    void in(const Block& block, std::size_t delay = 0) noexcept;
    /// What a response makes of all that has gone in; overwrites `block`. Parts of it beyond the capacity are left out.
    void out(const Response& response, Block& block) noexcept;

private:
    static constexpr std::size_t bins = blockFrames + 1;

    RealFft fft_;
    std::size_t partitions_;
    std::size_t newest_ = 0; ///< of the spectra
    Block before_{};
    std::vector<float> late_; ///< what waits for its delay
    std::size_t lateAt_ = 0;
    std::vector<float> real_; ///< spectra of the input, one for each block
    std::vector<float> imaginary_;
    std::array<float, bins> sumReal_{};
    std::array<float, bins> sumImaginary_{};
};

} // namespace stone
