// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"

#include <cstdint>
#include <vector>

namespace stone
{

/// By point: the number of its place, equal for points that lie on each other to a tenth of a millimetre.
std::vector<std::uint32_t> weldedPoints(const std::vector<Vec3>& points);

} // namespace stone
