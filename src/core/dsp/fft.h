// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <complex>
#include <cstddef>
#include <memory>
#include <span>
#include <vector>

namespace stone
{

/// A real Fourier transform of one length with its own buffers, so that running it allocates nothing. Use from one thread at a
/// time; several of them at the same time are independent. The same samples always give the same bytes.
///
/// The real samples are taken as half as many complex ones, transformed by the autosorting method of T. G. Stockham
/// ("High-speed convolution and correlation", AFIPS 1966) in steps of four, and taken apart again; real and imaginary parts lie
/// apart, as vector registers want them. Errors are some 1e-7 of the largest bin.
class RealFft
{
public:
    /// `size`: a power of two, 2 or more.
    explicit RealFft(std::size_t size);
    ~RealFft();
    RealFft(const RealFft&) = delete;
    RealFft& operator=(const RealFft&) = delete;

    std::span<float> samples() { return samples_; }
    /// size / 2 + 1 of them, from 0 to half the rate.
    std::span<std::complex<float>> bins() { return bins_; }

    /// samples() to bins(), unscaled.
    void forward() noexcept;
    /// bins() to samples(), scaled by 1 / size, so that it undoes forward(). Destroys bins().
    void inverse() noexcept;

private:
    struct Plan;

    /// Complex numbers, real and imaginary parts apart.
    struct Parts {
        float* real;
        float* imaginary;
    };
    void transform(Parts& from, Parts& to) noexcept;

    std::shared_ptr<const Plan> plan_; ///< of all of this size
    std::vector<float> samples_;
    std::vector<std::complex<float>> bins_;
    std::vector<float> work_; ///< two complex arrays, real and imaginary parts apart
};

} // namespace stone
