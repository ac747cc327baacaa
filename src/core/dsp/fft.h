#pragma once

#include <complex>
#include <cstddef>
#include <span>

struct fftwf_plan_s;

namespace stone
{

/// A real Fourier transform of one length with its own buffers, so that running it allocates nothing. Making one takes
/// a lock and allocates; use from one thread at a time.
class RealFft
{
public:
    /// `size`: even.
    explicit RealFft(std::size_t size);
    ~RealFft();
    RealFft(const RealFft&) = delete;
    RealFft& operator=(const RealFft&) = delete;

    std::span<float> samples() { return {samples_, size_}; }
    /// size / 2 + 1 of them, from 0 to half the rate.
    std::span<std::complex<float>> bins() { return {bins_, size_ / 2 + 1}; }

    /// samples() to bins(), unscaled.
    void forward();
    /// bins() to samples(), scaled by 1 / size, so that it undoes forward(). Destroys bins().
    void inverse();

private:
    std::size_t size_;
    float* samples_;
    std::complex<float>* bins_;
    fftwf_plan_s* forward_;
    fftwf_plan_s* inverse_;
};

} // namespace stone
