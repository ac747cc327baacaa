// SPDX-License-Identifier: MPL-2.0
#include "dsp/sinc_read.h"

#include "dsp/wide.h"

#include <array>
#include <cmath>
#include <cstring>
#include <numbers>

namespace stone
{

namespace
{

constexpr std::size_t phases = 128; ///< twice as many would no longer fit into the first-level cache
constexpr double kaiserBeta = 8.0;

using Phase = std::array<float, sincTaps>;

/// The sinc's values for each phase, and the way from each phase to the next.
struct alignas(64) SincTable {
    std::array<Phase, phases + 1> at;
    std::array<Phase, phases> step;

    SincTable()
    {
        for (std::size_t phase = 0; phase <= phases; ++phase) {
            std::array<double, sincTaps> values{};
            double sum = 0.0;
            for (std::size_t tap = 0; tap < sincTaps; ++tap) {
                const double x = static_cast<double>(tap) - static_cast<double>(sincTapsBefore) -
                                 static_cast<double>(phase) / static_cast<double>(phases);
                const double u = x / (static_cast<double>(sincTaps) / 2.0);
                const double window = u * u < 1.0 ? std::cyl_bessel_i(0.0, kaiserBeta * std::sqrt(1.0 - u * u)) : 0.0;
                values[tap] = window * (x == 0.0 ? 1.0 : std::sin(std::numbers::pi * x) / (std::numbers::pi * x));
                sum += values[tap];
            }
            for (std::size_t tap = 0; tap < sincTaps; ++tap) {
                at[phase][tap] = static_cast<float>(values[tap] / sum);
            }
        }
        for (std::size_t phase = 0; phase < phases; ++phase) {
            for (std::size_t tap = 0; tap < sincTaps; ++tap) {
                step[phase][tap] = at[phase + 1][tap] - at[phase][tap];
            }
        }
    }
};

/// Made when the program starts, so that the audio thread finds it ready.
const SincTable table;

/// Numbers side by side (an extension of GCC and Clang): the additions have one order, whatever the processor's registers hold.
using EightPoints = float __attribute__((vector_size(sizeof(float) * 8)));
using FourPoints = float __attribute__((vector_size(sizeof(float) * 4)));

} // namespace

STONE_WIDE void readSinc(const float* samples, std::int64_t place, std::int64_t step, std::span<float> out)
{
    constexpr std::size_t half = sincTaps / 2;
    for (float& read : out) {
        const float* s = samples + (place >> 32);
        // 24 bits of the rest are what a float holds.
        const float rest = static_cast<float>(static_cast<std::int32_t>((place & 0xFFFFFFFF) >> 8)) * 0x1p-24F;
        place += step;
        const float between = rest * static_cast<float>(phases);
        const auto phase = static_cast<std::size_t>(static_cast<std::int32_t>(between));
        const float t = between - static_cast<float>(static_cast<std::int32_t>(phase));
        EightPoints sum{};
        for (std::size_t first = 0; first < sincTaps; first += half) {
            EightPoints sample;
            EightPoints value;
            EightPoints way;
            std::memcpy(&sample, s + first, sizeof sample);
            std::memcpy(&value, table.at[phase].data() + first, sizeof value);
            std::memcpy(&way, table.step[phase].data() + first, sizeof way);
            const EightPoints weighed = sample * (value + t * way);
            sum = first == 0 ? weighed : sum + weighed;
        }
        const FourPoints four = __builtin_shufflevector(sum, sum, 0, 1, 2, 3) + __builtin_shufflevector(sum, sum, 4, 5, 6, 7);
        read = (four[0] + four[2]) + (four[1] + four[3]);
    }
}

} // namespace stone
