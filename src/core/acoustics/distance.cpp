// SPDX-License-Identifier: MPL-2.0
#include "acoustics/distance.h"

#include "dsp/decibel.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{
constexpr double fadeStart = 0.8;
} // namespace

double distanceGain(const DistanceFormula& f, double distance_m)
{
    if (f.staysFrom_m > 0.0 && f.model != DistanceModel::linear) {
        distance_m = std::min(distance_m, f.staysFrom_m);
    }
    switch (f.model) {
    case DistanceModel::linear: {
        const double near = std::min(f.reference_m, f.maximum_m);
        const double far = std::max(f.reference_m, f.maximum_m);
        const double factor = std::clamp(f.factor, 0.0, 1.0);
        if (near == far) {
            return 1.0 - factor;
        }
        return 1.0 - factor * (std::clamp(distance_m, near, far) - near) / (far - near);
    }
    case DistanceModel::inverse:
        if (f.reference_m == 0.0) {
            return 0.0;
        }
        return f.reference_m / (f.reference_m + f.factor * (std::max(distance_m, f.reference_m) - f.reference_m));
    case DistanceModel::exponential:
        if (f.reference_m == 0.0) {
            return 0.0;
        }
        return std::pow(std::max(distance_m, f.reference_m) / f.reference_m, -f.factor);
    }
    return 0.0;
}

double reachGain(const DistanceFormula& f, double distance_m)
{
    if (f.silentAt_m <= 0.0) {
        return 1.0;
    }
    const double t = (distance_m / f.silentAt_m - fadeStart) / (1.0 - fadeStart);
    if (t >= 1.0) {
        return 0.0;
    }
    return t <= 0.0 ? 1.0 : 0.5 + 0.5 * std::cos(std::numbers::pi * t);
}

double silentFrom_m(const DistanceFormula& f)
{
    double from = f.silentAt_m > 0.0 ? f.silentAt_m : boundless;
    if (f.model == DistanceModel::linear && f.factor >= 1.0) {
        from = std::min(from, f.reference_m == f.maximum_m ? 0.0 : std::max(f.reference_m, f.maximum_m));
    }
    if (f.model != DistanceModel::linear && f.reference_m == 0.0) {
        from = 0.0;
    }
    return from;
}

double fullUpTo_m(const DistanceFormula& f)
{
    const double full = f.model == DistanceModel::linear ? std::min(f.reference_m, f.maximum_m) : f.reference_m;
    return f.silentAt_m > 0.0 ? std::min(full, fadeStart * f.silentAt_m) : full;
}

double distanceOfLevel_m(const DistanceFormula& f, double level_db)
{
    const double wanted = gainOf(level_db);
    const auto gain = [&](double d) { return distanceGain(f, d) * reachGain(f, d); };
    double high = std::max(1.0, f.reference_m);
    while (gain(high) > wanted) {
        high *= 2.0;
        if (high > 1e7) {
            return boundless;
        }
    }
    // Every model falls steadily, so halving the interval finds the place to a tenth of a millimetre.
    double low = 0.0;
    while (high - low > 1e-4) {
        const double middle = (low + high) / 2.0;
        (gain(middle) > wanted ? low : high) = middle;
    }
    return high;
}

} // namespace stone
