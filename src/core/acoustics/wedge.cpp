#include "acoustics/wedge.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace stone
{

namespace
{

using std::numbers::pi;
using Complex = std::complex<double>;

Complex transition(double x)
{
    const double root = std::sqrt(x);
    const Complex turn = std::polar(1.0, pi / 4.0 * std::sqrt(x / (x + 1.4)));
    return x < 0.8 ? std::sqrt(pi * x) * (1.0 - root / (0.7 * root + 1.2)) * turn
                   : (1.0 - 0.8 / ((x + 1.25) * (x + 1.25))) * turn;
}

/// One of the four terms: `sign` of pi, `beta` the sum or the difference of the angles.
Complex term(double n, double kl, double beta, double sign)
{
    const double angle = (pi + sign * beta) / (2.0 * n);
    const double whole = std::round((beta + sign * pi) / (2.0 * pi * n));
    const double half = std::cos((2.0 * pi * n * whole - beta) / 2.0);
    const double a = 2.0 * half * half;
    // At a border the cotangent has a pole and the transition a zero; their product is finite.
    constexpr double least = 1e-7;
    const double tangent = std::tan(angle);
    const double held = std::abs(tangent) < least ? std::copysign(least, tangent) : tangent;
    return transition(std::max(kl * a, 1e-14)) / held;
}

} // namespace

double wedgeLoss_db(const WedgePath& path, double frequency_hz)
{
    const double n = path.exterior;
    const double across_m = path.source_m + path.receiver_m;
    const double length_m = std::hypot(across_m, path.along_m);
    const double s1 = length_m * path.source_m / across_m;
    const double s2 = length_m * path.receiver_m / across_m;
    const double sine = across_m / length_m;
    const double k = 2.0 * pi * frequency_hz / speedOfSound_m_s;
    const double kl = k * s1 * s2 / (s1 + s2) * sine * sine;
    // On the border itself two of the terms have a pole each; a hair beyond it is as good.
    constexpr double hair = 1e-4;
    const double off = path.receiver_rad - path.source_rad;
    const double less = std::abs(off - pi) < hair ? pi + hair : off;
    const double more = path.receiver_rad + path.source_rad;
    const Complex sum = term(n, kl, less, 1.0) + term(n, kl, less, -1.0) + term(n, kl, more, 1.0) + term(n, kl, more, -1.0);
    const double coefficient = std::abs(sum) / (2.0 * n * std::sqrt(2.0 * pi * k) * sine);
    const double field = coefficient / s1 * std::sqrt(s1 / (s2 * (s1 + s2)));
    const double direct_m = std::sqrt(path.source_m * path.source_m + path.receiver_m * path.receiver_m -
                                      2.0 * path.source_m * path.receiver_m * std::cos(less) + path.along_m * path.along_m);
    return -20.0 * std::log10(std::max(field * direct_m, 1e-12));
}

} // namespace stone
