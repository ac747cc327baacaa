// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <array>
#include <complex>
#include <span>

/// What is done to spectra bin by bin. All spans of a call are as long. Any thread; the same bytes on every processor.
namespace stone
{

/// sum[i] += gain * (x[i] * filter[i])
void addFiltered(std::span<std::complex<float>> sum, std::span<const std::complex<float>> x,
                 std::span<const std::complex<float>> filter, float gain);

/// out[i] = the sum of the four's [i], each times its weight.
void blend(std::span<std::complex<float>> out, const std::array<std::span<const std::complex<float>>, 4>& four,
           const std::array<float, 4>& weights);

/// Turns bin i by i times an angle, radians: a delay by -angle * length / (2 pi) frames.
void turn(std::span<std::complex<float>> spectrum, double angle);

} // namespace stone
