// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"

namespace stone
{

/// What bending round an edge takes from a sound, dB: 5 + 20 lg(x / tanh x), x = sqrt(2 pi N) (U. J. Kurze and G. S. Anderson,
/// Applied Acoustics 4, 1971). N is the Fresnel number, 2 times the detour over the wavelength; below 0 the edge lies beside
/// the line of sight: tan instead of tanh, and 0 from -0.2 on.
double kurzeAnderson_db(double fresnelNumber);

/// No edge takes more than this: what is scattered elsewhere comes to more (ISO 9613-2 sets 20 dB for one edge, 25 for two).
constexpr double mostBending_db = 24.0;

/// What a detour of so many metres (0 or more) leaves of the power in each band, beside the straight way of `direct_m`: the
/// bending above, and the spreading over the longer way, (direct / (direct + detour))^2. Without logarithms: asked for very
/// often.
std::array<double, 8> bendingShares(double detour_m, double direct_m);

} // namespace stone
