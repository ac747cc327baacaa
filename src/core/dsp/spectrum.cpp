// SPDX-License-Identifier: MPL-2.0
#include "dsp/spectrum.h"

#include "dsp/wide.h"

#include <algorithm>
#include <cstring>

namespace stone
{

namespace
{

using Complex = std::complex<float>;

/// Four complex numbers, of which a processor works out several at a time.
constexpr std::size_t abreast = 4;
using Four = float __attribute__((vector_size(2 * abreast * sizeof(float))));

#define STONE_INLINE __attribute__((always_inline))

/// So many floats, with zeros after them. Registers are handed on by reference: how they would be returned depends on the
/// processor.
STONE_INLINE inline void load(Four& to, const float* from, std::size_t count)
{
    if (count == 2 * abreast) {
        std::memcpy(&to, from, sizeof to);
    } else {
        to = Four{};
        std::memcpy(&to, from, count * sizeof(float));
    }
}

/// a = a * b, four pairs, as products are written out by hand: no look for infinities.
STONE_INLINE inline void multiply(Four& a, const Four& b)
{
    constexpr Four signs{-1, 1, -1, 1, -1, 1, -1, 1};
    const Four real = __builtin_shufflevector(a, a, 0, 0, 2, 2, 4, 4, 6, 6);
    const Four imaginary = __builtin_shufflevector(a, a, 1, 1, 3, 3, 5, 5, 7, 7);
    const Four crossed = __builtin_shufflevector(b, b, 1, 0, 3, 2, 5, 4, 7, 6);
    a = real * b + imaginary * crossed * signs;
}

/// Calls work(four, where, how many floats) for all of `out`, which then has what work left in `four`.
template <typename Work> STONE_INLINE inline void inFours(float* out, std::size_t floats, const Work& work)
{
    for (std::size_t i = 0; i < floats; i += 2 * abreast) {
        const std::size_t count = std::min(2 * abreast, floats - i);
        Four four;
        load(four, out + i, count);
        work(four, i, count);
        std::memcpy(out + i, &four, count * sizeof(float));
    }
}

STONE_WIDE void addFilteredOf(float* sum, const float* x, const float* filter, float gain, std::size_t floats)
{
    inFours(sum, floats, [&](Four& s, std::size_t at, std::size_t count) STONE_INLINE {
        Four a;
        Four b;
        load(a, x + at, count);
        load(b, filter + at, count);
        multiply(a, b);
        s += a * gain;
    });
}

STONE_WIDE void blendOf(float* out, const std::array<const float*, 4>& four, const std::array<float, 4>& weights,
                        std::size_t floats)
{
    inFours(out, floats, [&](Four& s, std::size_t at, std::size_t count) STONE_INLINE {
        Four a;
        load(a, four[0] + at, count);
        s = a * weights[0];
        for (std::size_t i = 1; i < four.size(); ++i) {
            load(a, four[i] + at, count);
            s += a * weights[i];
        }
    });
}

/// `phases`: of the first four bins; `further`: by how much each of them turns on to the bin four further.
STONE_WIDE void turnOf(float* spectrum, const float* phases, const float* further, std::size_t floats)
{
    Four phase;
    Four on;
    load(phase, phases, 2 * abreast);
    load(on, further, 2 * abreast);
    inFours(spectrum, floats, [&](Four& s, std::size_t, std::size_t) STONE_INLINE {
        multiply(s, phase);
        multiply(phase, on);
    });
}

float* floatsOf(std::span<Complex> spectrum)
{
    return reinterpret_cast<float*>(spectrum.data());
}

const float* floatsOf(std::span<const Complex> spectrum)
{
    return reinterpret_cast<const float*>(spectrum.data());
}

} // namespace

void addFiltered(std::span<Complex> sum, std::span<const Complex> x, std::span<const Complex> filter, float gain)
{
    addFilteredOf(floatsOf(sum), floatsOf(x), floatsOf(filter), gain, 2 * sum.size());
}

void blend(std::span<Complex> out, const std::array<std::span<const Complex>, 4>& four, const std::array<float, 4>& weights)
{
    blendOf(floatsOf(out), {floatsOf(four[0]), floatsOf(four[1]), floatsOf(four[2]), floatsOf(four[3])}, weights,
            2 * out.size());
}

void turn(std::span<Complex> spectrum, double angle)
{
    std::array<Complex, abreast> phases;
    for (std::size_t i = 0; i < phases.size(); ++i) {
        phases[i] = Complex(std::polar(1.0, angle * static_cast<double>(i)));
    }
    std::array<Complex, abreast> further;
    further.fill(Complex(std::polar(1.0, angle * static_cast<double>(abreast))));
    turnOf(floatsOf(spectrum), floatsOf(std::span<const Complex>(phases)), floatsOf(std::span<const Complex>(further)),
           2 * spectrum.size());
}

} // namespace stone
