// SPDX-License-Identifier: MPL-2.0
#include "acoustics/barrier.h"

#include "dsp/decibel.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

constexpr double beside = -0.2;
/// Up to here x / tanh x is 1 to the last digit.
constexpr double smallest = 1e-9;

} // namespace

double kurzeAnderson_db(double fresnelNumber)
{
    if (fresnelNumber <= beside) {
        return 0.0;
    }
    const double x = std::sqrt(2.0 * std::numbers::pi * std::abs(fresnelNumber));
    if (x < smallest) {
        return 5.0;
    }
    const double bend = fresnelNumber > 0.0 ? std::tanh(x) : std::tan(x);
    return std::max(5.0 + 20.0 * std::log10(x / bend), 0.0);
}

std::array<double, 8> bendingShares(double detour_m, double direct_m)
{
    static const double atBorder = powerOf(5.0);
    static const double least = powerOf(mostBending_db);
    const double nearer = direct_m > 0.0 ? direct_m / (direct_m + detour_m) : 1.0;
    std::array<double, 8> shares{};
    for (std::size_t band = 0; band < shares.size(); ++band) {
        const double x = std::sqrt(2.0 * std::numbers::pi * 2.0 * detour_m * octaveBands_hz[band] / speedOfSound_m_s);
        const double bend = x < smallest ? 1.0 : std::tanh(x) / x;
        shares[band] = std::max(atBorder * bend * bend, least) * nearer * nearer;
    }
    return shares;
}

} // namespace stone
