// SPDX-License-Identifier: MPL-2.0
#include "acoustics/barrier.h"

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

Bands bendingLoss_db(double detour_m, double direct_m)
{
    const double spreading_db = direct_m > 0.0 ? 20.0 * std::log10(1.0 + detour_m / direct_m) : 0.0;
    Bands loss{};
    for (std::size_t band = 0; band < loss.size(); ++band) {
        const double wavelength_m = speedOfSound_m_s / octaveBands_hz[band];
        loss[band] = std::min(kurzeAnderson_db(2.0 * detour_m / wavelength_m), mostBending_db) + spreading_db;
    }
    return loss;
}

} // namespace stone
