#include "dsp/fft.h"

#include <fftw3.h>

#include <mutex>

namespace stone
{

namespace
{
/// FFTW's planner is one for the whole program.
std::mutex& planner()
{
    static std::mutex mutex;
    return mutex;
}
} // namespace

RealFft::RealFft(std::size_t size)
    : size_(size), samples_(fftwf_alloc_real(size)),
      bins_(reinterpret_cast<std::complex<float>*>(fftwf_alloc_complex(size / 2 + 1)))
{
    const std::lock_guard lock(planner());
    auto* bins = reinterpret_cast<fftwf_complex*>(bins_);
    // Estimated plans are the same each time, measured ones are not: renders have to repeat to the byte.
    forward_ = fftwf_plan_dft_r2c_1d(static_cast<int>(size), samples_, bins, FFTW_ESTIMATE);
    inverse_ = fftwf_plan_dft_c2r_1d(static_cast<int>(size), bins, samples_, FFTW_ESTIMATE);
}

RealFft::~RealFft()
{
    const std::lock_guard lock(planner());
    fftwf_destroy_plan(forward_);
    fftwf_destroy_plan(inverse_);
    fftwf_free(samples_);
    fftwf_free(bins_);
}

void RealFft::forward()
{
    fftwf_execute(forward_);
}

void RealFft::inverse()
{
    fftwf_execute(inverse_);
    const float scale = 1.0F / static_cast<float>(static_cast<int>(size_));
    for (float& sample : samples()) {
        sample *= scale;
    }
}

} // namespace stone
