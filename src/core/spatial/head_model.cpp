// SPDX-License-Identifier: MPL-2.0
#include "spatial/head_model.h"

#include "spatial/layout.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>

namespace stone
{

namespace
{

constexpr double speedOfSound_m_s = 343.0;
constexpr double mostBand_db = 4.0;

struct Band {
    double from_hz;
    double to_hz;
    Vec3 towards;
};

const std::array<Band, 5>& bandsOfBlauert()
{
    static const std::array<Band, 5> bands{{{280, 560, {0, 1, 0}},
                                            {2900, 5800, {0, 1, 0}},
                                            {720, 1800, {0, -1, 0}},
                                            {10'300, 14'900, {0, -1, 0}},
                                            {7200, 9600, {0, 0, 1}}}};
    return bands;
}

/// 1 in the band's middle, 0.5 at its edges, in octaves.
double bell(const Band& band, double frequency_hz)
{
    const double middle = std::log2(band.from_hz * band.to_hz) / 2.0;
    const double half = std::log2(band.to_hz / band.from_hz) / 2.0;
    const double t = (std::log2(std::max(frequency_hz, 1.0)) - middle) / half;
    return std::exp2(-t * t);
}

} // namespace

double earDelay_s(double fromEarAxis_deg)
{
    const double t = radians(fromEarAxis_deg);
    return headRadius_m / speedOfSound_m_s * (t < std::numbers::pi / 2.0 ? -std::cos(t) : t - std::numbers::pi / 2.0);
}

double headShadow(double fromEarAxis_deg, double frequency_hz)
{
    const double alpha = 1.05 + 0.95 * std::cos(radians(fromEarAxis_deg) * 180.0 / 150.0);
    const double x = std::numbers::pi * frequency_hz * headRadius_m / speedOfSound_m_s;
    return std::sqrt((1.0 + alpha * alpha * x * x) / (1.0 + x * x));
}

double directionalBands(double azimuth_deg, double elevation_deg, double frequency_hz)
{
    const Vec3 unit = unitOf(azimuth_deg, elevation_deg);
    double db = 0.0;
    for (const Band& band : bandsOfBlauert()) {
        db += mostBand_db * glm::dot(unit, band.towards) * bell(band, frequency_hz);
    }
    return std::pow(10.0, db / 20.0);
}

HeadResponse builtInHead(double azimuth_deg, double elevation_deg, double rate)
{
    const Vec3 unit = unitOf(azimuth_deg, elevation_deg);
    const double toRight = degrees(std::acos(std::clamp(unit.x, -1.0, 1.0)));
    HeadResponse head;
    for (std::size_t bin = 0; bin < headBins; ++bin) {
        const double f = static_cast<double>(bin) * rate / (2.0 * static_cast<double>(headBins - 1));
        const double right = headShadow(toRight, f);
        const double left = headShadow(180.0 - toRight, f);
        const double even = std::sqrt(2.0 / (left * left + right * right));
        head.left.zeroPhase[bin] = static_cast<float>(left * even);
        head.right.zeroPhase[bin] = static_cast<float>(right * even);
        head.left.magnitude[bin] = static_cast<float>(directionalBands(azimuth_deg, elevation_deg, f));
    }
    head.right.magnitude = head.left.magnitude;
    head.left.delay_s = earDelay_s(180.0 - toRight);
    head.right.delay_s = earDelay_s(toRight);
    return head;
}

SharedHead builtInHeadFilters(double rate)
{
    static std::mutex mutex;
    static std::map<double, SharedHead> made;
    const std::lock_guard lock(mutex);
    SharedHead& head = made[rate];
    if (!head) {
        head = std::make_shared<const HeadFilters>(
            "Built-in head", rate, [rate](double azimuth, double elevation) { return builtInHead(azimuth, elevation, rate); });
    }
    return head;
}

} // namespace stone
