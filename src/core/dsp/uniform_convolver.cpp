// SPDX-License-Identifier: MPL-2.0
#include "dsp/uniform_convolver.h"

#include "dsp/wide.h"

#include <algorithm>

namespace stone
{

namespace
{

/// Adds the products of so many complex numbers, real and imaginary parts apart.
STONE_WIDE void addProducts(const float* xr, const float* xi, const float* hr, const float* hi, float* __restrict sumReal,
                            float* __restrict sumImaginary, std::size_t count)
{
    for (std::size_t bin = 0; bin < count; ++bin) {
        sumReal[bin] += xr[bin] * hr[bin] - xi[bin] * hi[bin];
        sumImaginary[bin] += xr[bin] * hi[bin] + xi[bin] * hr[bin];
    }
}

} // namespace

UniformConvolver::Response::Response(std::span<const float> samples)
    : partitions_(std::max<std::size_t>((samples.size() + blockFrames - 1) / blockFrames, 1)), real_(partitions_ * bins),
      imaginary_(partitions_ * bins)
{
    RealFft fft(2 * blockFrames);
    for (std::size_t partition = 0; partition < partitions_; ++partition) {
        const std::size_t from = partition * blockFrames;
        const std::size_t count = from < samples.size() ? std::min(samples.size() - from, blockFrames) : 0;
        std::fill(fft.samples().begin(), fft.samples().end(), 0.0F);
        std::copy_n(samples.begin() + static_cast<std::ptrdiff_t>(from), count, fft.samples().begin());
        fft.forward();
        for (std::size_t bin = 0; bin < bins; ++bin) {
            real_[partition * bins + bin] = fft.bins()[bin].real();
            imaginary_[partition * bins + bin] = fft.bins()[bin].imag();
        }
    }
}

UniformConvolver::UniformConvolver(std::size_t partitions)
    : fft_(2 * blockFrames), partitions_(std::max<std::size_t>(partitions, 1)), late_(mostDelay + blockFrames),
      real_(partitions_ * bins), imaginary_(partitions_ * bins)
{
}

void UniformConvolver::reset()
{
    before_.fill(0.0F);
    std::fill(late_.begin(), late_.end(), 0.0F);
    std::fill(real_.begin(), real_.end(), 0.0F);
    std::fill(imaginary_.begin(), imaginary_.end(), 0.0F);
}

void UniformConvolver::in(const Block& block, std::size_t delay) noexcept
{
    const std::size_t mask = late_.size() - 1;
    Block now;
    for (std::size_t i = 0; i < blockFrames; ++i) {
        late_[(lateAt_ + i) & mask] = block[i];
        now[i] = late_[(lateAt_ + i - std::min(delay, mostDelay)) & mask];
    }
    lateAt_ = (lateAt_ + blockFrames) & mask;
    newest_ = newest_ + 1 == partitions_ ? 0 : newest_ + 1;
    std::copy(before_.begin(), before_.end(), fft_.samples().begin());
    std::copy(now.begin(), now.end(), fft_.samples().begin() + blockFrames);
    before_ = now;
    fft_.forward();
    float* real = real_.data() + newest_ * bins;
    float* imaginary = imaginary_.data() + newest_ * bins;
    for (std::size_t bin = 0; bin < bins; ++bin) {
        real[bin] = fft_.bins()[bin].real();
        imaginary[bin] = fft_.bins()[bin].imag();
    }
}

void UniformConvolver::out(const Response& response, Block& block) noexcept
{
    sumReal_.fill(0.0F);
    sumImaginary_.fill(0.0F);
    const std::size_t count = std::min(response.partitions_, partitions_);
    std::size_t at = newest_;
    for (std::size_t partition = 0; partition < count; ++partition) {
        addProducts(real_.data() + at * bins, imaginary_.data() + at * bins, response.real_.data() + partition * bins,
                    response.imaginary_.data() + partition * bins, sumReal_.data(), sumImaginary_.data(), bins);
        at = at == 0 ? partitions_ - 1 : at - 1;
    }
    for (std::size_t bin = 0; bin < bins; ++bin) {
        fft_.bins()[bin] = {sumReal_[bin], sumImaginary_[bin]};
    }
    fft_.inverse();
    // The first half is what wraps round (overlap-save).
    std::copy_n(fft_.samples().begin() + blockFrames, blockFrames, block.begin());
}

} // namespace stone
