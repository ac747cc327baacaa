// SPDX-License-Identifier: MPL-2.0
#include "geometry/spread.h"

#include "geometry/vec.h"

#include <algorithm>
#include <cmath>

namespace stone
{

double widthToLength(double width_deg)
{
    return (1.0 + std::cos(radians(std::clamp(width_deg, 0.0, 360.0) / 2.0))) / 2.0;
}

double lengthToWidth_deg(double length)
{
    return 2.0 * degrees(std::acos(std::clamp(2.0 * length - 1.0, -1.0, 1.0)));
}

} // namespace stone
