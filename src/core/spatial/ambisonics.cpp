// SPDX-License-Identifier: MPL-2.0
#include "spatial/ambisonics.h"

#include <glm/geometric.hpp>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// The mean of the Legendre polynomial P_n over a cap around the pole, c = cos of its half-angle:
/// (P_{n-1}(c) - P_{n+1}(c)) / ((2n + 1) (1 - c)).
double capMean(int order, double c)
{
    if (c > 1.0 - 1e-9) {
        return 1.0;
    }
    const auto legendre = [c](int n) { return n < 0 ? 1.0 : std::legendre(static_cast<unsigned>(n), c); };
    return (legendre(order - 1) - legendre(order + 1)) / ((2 * order + 1) * (1.0 - c));
}

} // namespace

ChannelGains ambisonicGains(int order, const Vec3& direction, double width_deg)
{
    const Vec3 unit = glm::normalize(direction);
    const double x = unit.y;
    const double y = -unit.x;
    const double z = unit.z;
    const double r3 = std::sqrt(3.0);
    const double r5_8 = std::sqrt(5.0 / 8.0);
    const double r3_8 = std::sqrt(3.0 / 8.0);
    const double r15 = std::sqrt(15.0);
    const std::array<double, mostChannels> all{1.0,
                                               y,
                                               z,
                                               x,
                                               r3 * x * y,
                                               r3 * y * z,
                                               (3.0 * z * z - 1.0) / 2.0,
                                               r3 * x * z,
                                               r3 / 2.0 * (x * x - y * y),
                                               r5_8 * y * (3.0 * x * x - y * y),
                                               r15 * x * y * z,
                                               r3_8 * y * (5.0 * z * z - 1.0),
                                               z * (5.0 * z * z - 3.0) / 2.0,
                                               r3_8 * x * (5.0 * z * z - 1.0),
                                               r15 / 2.0 * z * (x * x - y * y),
                                               r5_8 * x * (x * x - 3.0 * y * y)};
    const double c = std::cos(radians(std::clamp(width_deg, 0.0, 360.0) / 2.0));
    ChannelGains gains{};
    std::size_t channel = 0;
    for (int n = 0; n <= order; ++n) {
        const double share = n == 0 ? 1.0 : capMean(n, c);
        for (int m = -n; m <= n; ++m, ++channel) {
            gains[channel] = static_cast<float>(all[channel] * share);
        }
    }
    return gains;
}

} // namespace stone
