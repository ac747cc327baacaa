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

} // namespace

double WedgePath::round_m() const
{
    return std::hypot(source_m + receiver_m, along_m);
}

double WedgePath::direct_m(double off_rad) const
{
    return std::sqrt(source_m * source_m + receiver_m * receiver_m - 2.0 * source_m * receiver_m * std::cos(off_rad) +
                     along_m * along_m);
}

/// `sign` of pi, `beta` the sum or the difference of the angles.
WedgeLoss::Term WedgeLoss::termOf(double n, double beta, double sign)
{
    const double angle = (pi + sign * beta) / (2.0 * n);
    const double whole = std::round((beta + sign * pi) / (2.0 * pi * n));
    const double half = std::cos((2.0 * pi * n * whole - beta) / 2.0);
    // At a border the cotangent has a pole and the transition a zero; their product is finite.
    constexpr double least = 1e-7;
    const double tangent = std::tan(angle);
    return {std::abs(tangent) < least ? std::copysign(least, tangent) : tangent, 2.0 * half * half};
}

WedgeLoss::WedgeLoss(const WedgePath& path) : n_(path.exterior)
{
    const double across_m = path.source_m + path.receiver_m;
    const double length_m = path.round_m();
    s1_ = length_m * path.source_m / across_m;
    s2_ = length_m * path.receiver_m / across_m;
    sine_ = across_m / length_m;
    // On the border itself two of the terms have a pole each; a hair beyond it is as good.
    constexpr double hair = 1e-4;
    const double off = path.receiver_rad - path.source_rad;
    const double less = std::abs(off - pi) < hair ? pi + hair : off;
    const double more = path.receiver_rad + path.source_rad;
    terms_ = {termOf(n_, less, 1.0), termOf(n_, less, -1.0), termOf(n_, more, 1.0), termOf(n_, more, -1.0)};
    direct_m_ = path.direct_m(less);
}

double WedgeLoss::at_db(double frequency_hz) const
{
    const double k = 2.0 * pi * frequency_hz / speedOfSound_m_s;
    const double kl = k * s1_ * s2_ / (s1_ + s2_) * sine_ * sine_;
    Complex sum = 0.0;
    for (const Term& term : terms_) {
        sum += transition(std::max(kl * term.a, 1e-14)) / term.tangent;
    }
    const double coefficient = std::abs(sum) / (2.0 * n_ * std::sqrt(2.0 * pi * k) * sine_);
    const double field = coefficient / s1_ * std::sqrt(s1_ / (s2_ * (s1_ + s2_)));
    return -20.0 * std::log10(std::max(field * direct_m_, 1e-12));
}

} // namespace stone
