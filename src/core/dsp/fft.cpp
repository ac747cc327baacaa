// SPDX-License-Identifier: MPL-2.0
#include "dsp/fft.h"

#include "dsp/wide.h"

#include <bit>
#include <cmath>
#include <cstring>
#include <map>
#include <mutex>
#include <numbers>
#include <stdexcept>

namespace stone
{

namespace
{

/// The turns of a step of four: by one, two and three times a p-th of the length, real and imaginary parts apart.
struct Turns {
    std::vector<float> real1, imaginary1, real2, imaginary2, real3, imaginary3;

    explicit Turns(std::size_t length)
    {
        for (std::size_t p = 0; p < length / 4; ++p) {
            const auto put = [&](double times, std::vector<float>& real, std::vector<float>& imaginary) {
                const double angle = -2.0 * std::numbers::pi * times * static_cast<double>(p) / static_cast<double>(length);
                real.push_back(static_cast<float>(std::cos(angle)));
                imaginary.push_back(static_cast<float>(std::sin(angle)));
            };
            put(1.0, real1, imaginary1);
            put(2.0, real2, imaginary2);
            put(3.0, real3, imaginary3);
        }
    }
};

/// So many numbers in a register of sixteen bytes, and of thirty-two; where there are none so wide it is taken as two.
using Numbers4 = float __attribute__((vector_size(16)));
using Numbers8 = float __attribute__((vector_size(32)));

/// By reference: as a result such numbers would need the wide registers.
template <class Number> [[gnu::always_inline]] inline void take(Number& number, const float* from)
{
    std::memcpy(&number, from, sizeof number);
}

template <class Number> [[gnu::always_inline]] inline void put(float* to, const Number& number)
{
    std::memcpy(to, &number, sizeof number);
}

/// Four numbers of a step, and what becomes of them before they are turned.
template <class Number> struct Four {
    Number sumReal, sumImaginary, oneReal, oneImaginary, twoReal, twoImaginary, threeReal, threeImaginary;

    [[gnu::always_inline]] Four(const float* real, const float* imaginary, std::size_t apart)
    {
        Number ar;
        Number ai;
        Number br;
        Number bi;
        Number cr;
        Number ci;
        Number dr;
        Number di;
        take(ar, real);
        take(ai, imaginary);
        take(br, real + apart);
        take(bi, imaginary + apart);
        take(cr, real + 2 * apart);
        take(ci, imaginary + 2 * apart);
        take(dr, real + 3 * apart);
        take(di, imaginary + 3 * apart);
        const Number acReal = ar + cr;
        const Number acImaginary = ai + ci;
        const Number aReal = ar - cr;
        const Number aImaginary = ai - ci;
        const Number bdReal = br + dr;
        const Number bdImaginary = bi + di;
        // Of the second and fourth the difference, turned by a quarter.
        const Number bReal = di - bi;
        const Number bImaginary = br - dr;
        sumReal = acReal + bdReal;
        sumImaginary = acImaginary + bdImaginary;
        oneReal = aReal - bReal;
        oneImaginary = aImaginary - bImaginary;
        twoReal = acReal - bdReal;
        twoImaginary = acImaginary - bdImaginary;
        threeReal = aReal + bReal;
        threeImaginary = aImaginary + bImaginary;
    }
};

/// The first step, in which each number stands alone: along the turns.
STONE_WIDE void firstStep(const float* xr, const float* xi, float* __restrict yr, float* __restrict yi, const Turns& turns,
                          std::size_t quarter)
{
    const float* r1 = turns.real1.data();
    const float* i1 = turns.imaginary1.data();
    const float* r2 = turns.real2.data();
    const float* i2 = turns.imaginary2.data();
    const float* r3 = turns.real3.data();
    const float* i3 = turns.imaginary3.data();
    for (std::size_t p = 0; p < quarter; ++p) {
        const Four<float> four(xr + p, xi + p, quarter);
        yr[4 * p] = four.sumReal;
        yi[4 * p] = four.sumImaginary;
        yr[4 * p + 1] = four.oneReal * r1[p] - four.oneImaginary * i1[p];
        yi[4 * p + 1] = four.oneReal * i1[p] + four.oneImaginary * r1[p];
        yr[4 * p + 2] = four.twoReal * r2[p] - four.twoImaginary * i2[p];
        yi[4 * p + 2] = four.twoReal * i2[p] + four.twoImaginary * r2[p];
        yr[4 * p + 3] = four.threeReal * r3[p] - four.threeImaginary * i3[p];
        yi[4 * p + 3] = four.threeReal * i3[p] + four.threeImaginary * r3[p];
    }
}

/// A later one, in which so many numbers stand side by side, at least as many as a register takes: along them.
template <class Number> [[gnu::always_inline]] inline void stepAlong(const float* xr, const float* xi, float* yr, float* yi,
                                                                     const Turns& turns, std::size_t quarter, std::size_t side)
{
    constexpr std::size_t wide = sizeof(Number) / sizeof(float);
    for (std::size_t p = 0; p < quarter; ++p) {
        const float r1 = turns.real1[p];
        const float i1 = turns.imaginary1[p];
        const float r2 = turns.real2[p];
        const float i2 = turns.imaginary2[p];
        const float r3 = turns.real3[p];
        const float i3 = turns.imaginary3[p];
        for (std::size_t q = 0; q < side; q += wide) {
            const Four<Number> four(xr + side * p + q, xi + side * p + q, side * quarter);
            float* real = yr + side * 4 * p + q;
            float* imaginary = yi + side * 4 * p + q;
            put(real, four.sumReal);
            put(imaginary, four.sumImaginary);
            put<Number>(real + side, four.oneReal * r1 - four.oneImaginary * i1);
            put<Number>(imaginary + side, four.oneReal * i1 + four.oneImaginary * r1);
            put<Number>(real + 2 * side, four.twoReal * r2 - four.twoImaginary * i2);
            put<Number>(imaginary + 2 * side, four.twoReal * i2 + four.twoImaginary * r2);
            put<Number>(real + 3 * side, four.threeReal * r3 - four.threeImaginary * i3);
            put<Number>(imaginary + 3 * side, four.threeReal * i3 + four.threeImaginary * r3);
        }
    }
}

STONE_WIDE void laterStep(const float* xr, const float* xi, float* yr, float* yi, const Turns& turns, std::size_t quarter,
                          std::size_t side)
{
    if (side % 8 == 0) {
        stepAlong<Numbers8>(xr, xi, yr, yi, turns, quarter, side);
    } else {
        stepAlong<Numbers4>(xr, xi, yr, yi, turns, quarter, side);
    }
}

/// The last one where the length is no power of four.
STONE_WIDE void lastStep(const float* xr, const float* xi, float* __restrict yr, float* __restrict yi, std::size_t side)
{
    for (std::size_t q = 0; q < side; ++q) {
        yr[q] = xr[q] + xr[q + side];
        yi[q] = xi[q] + xi[q + side];
        yr[q + side] = xr[q] - xr[q + side];
        yi[q + side] = xi[q] - xi[q + side];
    }
}

/// Samples side by side become real and imaginary parts.
STONE_WIDE void takeApart(const float* samples, float* __restrict real, float* __restrict imaginary, std::size_t half)
{
    for (std::size_t k = 0; k < half; ++k) {
        real[k] = samples[2 * k];
        imaginary[k] = samples[2 * k + 1];
    }
}

/// The spectrum of real samples from that of them taken as complex ones; bins from 1 to half - 1.
STONE_WIDE void toReal(const float* zr, const float* zi, const float* turnReal, const float* turnImaginary,
                       float* __restrict bins, std::size_t half)
{
    for (std::size_t k = 1; k < half; ++k) {
        const float evenReal = 0.5F * (zr[k] + zr[half - k]);
        const float evenImaginary = 0.5F * (zi[k] - zi[half - k]);
        const float oddReal = 0.5F * (zi[k] + zi[half - k]);
        const float oddImaginary = 0.5F * (zr[half - k] - zr[k]);
        bins[2 * k] = evenReal + oddReal * turnReal[k] - oddImaginary * turnImaginary[k];
        bins[2 * k + 1] = evenImaginary + oddReal * turnImaginary[k] + oddImaginary * turnReal[k];
    }
}

/// The other way round.
STONE_WIDE void fromReal(const float* bins, const float* turnReal, const float* turnImaginary, float* __restrict zr,
                         float* __restrict zi, std::size_t half)
{
    for (std::size_t k = 1; k < half; ++k) {
        const std::size_t m = half - k;
        const float evenReal = bins[2 * k] + bins[2 * m];
        const float evenImaginary = bins[2 * k + 1] - bins[2 * m + 1];
        const float otherReal = bins[2 * k] - bins[2 * m];
        const float otherImaginary = bins[2 * k + 1] + bins[2 * m + 1];
        const float oddReal = otherReal * turnReal[k] + otherImaginary * turnImaginary[k];
        const float oddImaginary = otherImaginary * turnReal[k] - otherReal * turnImaginary[k];
        zr[k] = evenReal - oddImaginary;
        zi[k] = evenImaginary + oddReal;
    }
}

STONE_WIDE void putTogether(const float* real, const float* imaginary, float scale, float* __restrict samples, std::size_t half)
{
    for (std::size_t k = 0; k < half; ++k) {
        samples[2 * k] = real[k] * scale;
        samples[2 * k + 1] = imaginary[k] * scale;
    }
}

} // namespace

struct RealFft::Plan {
    std::size_t half;
    std::vector<Turns> steps; ///< from the whole length down
    std::vector<float> turnReal;
    std::vector<float> turnImaginary;

    explicit Plan(std::size_t size) : half(size / 2)
    {
        for (std::size_t length = half; length >= 4; length /= 4) {
            steps.emplace_back(length);
        }
        for (std::size_t k = 0; k <= half; ++k) {
            const double angle = -std::numbers::pi * static_cast<double>(k) / static_cast<double>(half);
            turnReal.push_back(static_cast<float>(std::cos(angle)));
            turnImaginary.push_back(static_cast<float>(std::sin(angle)));
        }
    }

    /// That of a size, kept as long as somebody has it.
    static std::shared_ptr<const Plan> of(std::size_t size)
    {
        static std::mutex mutex;
        static std::map<std::size_t, std::weak_ptr<const Plan>> known;
        const std::lock_guard lock(mutex);
        std::shared_ptr<const Plan> plan = known[size].lock();
        if (!plan) {
            plan = std::make_shared<const Plan>(size);
            known[size] = plan;
        }
        return plan;
    }
};

RealFft::RealFft(std::size_t size) : samples_(size), bins_(size / 2 + 1), work_(2 * size)
{
    if (size < 2 || !std::has_single_bit(size)) {
        throw std::invalid_argument("RealFft: the size is a power of two");
    }
    plan_ = Plan::of(size);
}

RealFft::~RealFft() = default;

/// Transforms the complex numbers in `from`, with `to` as room beside it: swaps the two where they end up in the other.
void RealFft::transform(Parts& from, Parts& to) noexcept
{
    std::size_t length = plan_->half;
    std::size_t side = 1;
    for (const Turns& turns : plan_->steps) {
        if (side == 1) {
            firstStep(from.real, from.imaginary, to.real, to.imaginary, turns, length / 4);
        } else {
            laterStep(from.real, from.imaginary, to.real, to.imaginary, turns, length / 4, side);
        }
        std::swap(from, to);
        length /= 4;
        side *= 4;
    }
    if (length == 2) {
        lastStep(from.real, from.imaginary, to.real, to.imaginary, side);
        std::swap(from, to);
    }
}

void RealFft::forward() noexcept
{
    const std::size_t half = plan_->half;
    Parts now{work_.data(), work_.data() + half};
    Parts other{work_.data() + 2 * half, work_.data() + 3 * half};
    takeApart(samples_.data(), now.real, now.imaginary, half);
    transform(now, other);
    bins_.front() = {now.real[0] + now.imaginary[0], 0.0F};
    bins_.back() = {now.real[0] - now.imaginary[0], 0.0F};
    // Complex numbers are pairs of floats in memory (C++20, [complex.numbers]).
    toReal(now.real, now.imaginary, plan_->turnReal.data(), plan_->turnImaginary.data(), reinterpret_cast<float*>(bins_.data()),
           half);
}

void RealFft::inverse() noexcept
{
    const std::size_t half = plan_->half;
    Parts now{work_.data(), work_.data() + half};
    Parts other{work_.data() + 2 * half, work_.data() + 3 * half};
    now.real[0] = bins_.front().real() + bins_.back().real();
    now.imaginary[0] = bins_.front().real() - bins_.back().real();
    fromReal(reinterpret_cast<const float*>(bins_.data()), plan_->turnReal.data(), plan_->turnImaginary.data(), now.real,
             now.imaginary, half);
    // With real and imaginary parts changed round, there is the way back.
    std::swap(now.real, now.imaginary);
    std::swap(other.real, other.imaginary);
    transform(now, other);
    putTogether(now.imaginary, now.real, 1.0F / static_cast<float>(2 * half), samples_.data(), half);
}

} // namespace stone
