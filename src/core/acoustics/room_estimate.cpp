// SPDX-License-Identifier: MPL-2.0
#include "acoustics/room_estimate.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>

namespace stone
{

namespace
{

const double decay = 24.0 * std::numbers::ln10 / speedOfSound_m_s;
/// From dB to the exponent of energy: 10 lg e.
const double decibels = 10.0 * std::numbers::log10e;

Bands estimate(double volume_m3, std::span<const RoomSurface> surfaces, const Bands& air_db_m,
               const std::function<double(double area_m2, double absorbing_m2)>& absorbingArea)
{
    Bands rt60_s{};
    for (std::size_t band = 0; band < rt60_s.size(); ++band) {
        double area_m2 = 0.0;
        double absorbing_m2 = 0.0;
        for (const RoomSurface& surface : surfaces) {
            area_m2 += surface.area_m2;
            absorbing_m2 += surface.area_m2 * surface.absorption[band];
        }
        rt60_s[band] = decay * volume_m3 / (absorbingArea(area_m2, absorbing_m2) + 4.0 * air_db_m[band] / decibels * volume_m3);
    }
    return rt60_s;
}

} // namespace

Bands sabine_s(double volume_m3, std::span<const RoomSurface> surfaces, const Bands& air_db_m)
{
    return estimate(volume_m3, surfaces, air_db_m, [](double, double absorbing_m2) { return absorbing_m2; });
}

Bands eyring_s(double volume_m3, std::span<const RoomSurface> surfaces, const Bands& air_db_m)
{
    return estimate(volume_m3, surfaces, air_db_m, [](double area_m2, double absorbing_m2) {
        const double mean = area_m2 > 0.0 ? std::min(absorbing_m2 / area_m2, 1.0 - 1e-9) : 0.0;
        return -area_m2 * std::log(1.0 - mean);
    });
}

} // namespace stone
