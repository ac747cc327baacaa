// SPDX-License-Identifier: MPL-2.0
#include "acoustics/air.h"

#include <cmath>

namespace stone
{

double airLoss_db_m(const Air& air, double f)
{
    constexpr double reference_k = 293.15;
    constexpr double triplePoint_k = 273.16;
    const double kelvin = air.temperature_c + 273.15;
    const double t = kelvin / reference_k;
    const double pressure = air.pressure_kpa / 101.325;
    const double saturation = std::pow(10.0, -6.8346 * std::pow(triplePoint_k / kelvin, 1.261) + 4.6151);
    const double vapour_pct = air.humidity_pct * saturation / pressure;
    const double oxygen_hz = pressure * (24.0 + 4.04e4 * vapour_pct * (0.02 + vapour_pct) / (0.391 + vapour_pct));
    const double nitrogen_hz =
        pressure * std::pow(t, -0.5) * (9.0 + 280.0 * vapour_pct * std::exp(-4.170 * (std::pow(t, -1.0 / 3.0) - 1.0)));
    return 8.686 * f * f *
           (1.84e-11 / pressure * std::sqrt(t) +
            std::pow(t, -2.5) * (0.01275 * std::exp(-2239.1 / kelvin) / (oxygen_hz + f * f / oxygen_hz) +
                                 0.1068 * std::exp(-3352.0 / kelvin) / (nitrogen_hz + f * f / nitrogen_hz)));
}

Bands airLoss_db_m(const Air& air)
{
    Bands bands{};
    for (std::size_t band = 0; band < bands.size(); ++band) {
        bands[band] = airLoss_db_m(air, octaveBands_hz[band]);
    }
    return bands;
}

} // namespace stone
