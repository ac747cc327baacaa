// SPDX-License-Identifier: MPL-2.0
#pragma once

namespace stone
{

/// A sound that comes evenly from a cap of the sphere around the ears is known by its mean direction vector: the wider
/// the cap, the shorter the vector. `width_deg` is the full angle of the cap, 0 (a point) to 360 (all round); the length
/// is 1 to 0: the mean of cos over a cap of half-angle h is (1 + cos h) / 2.
double widthToLength(double width_deg);
double lengthToWidth_deg(double length);

} // namespace stone
