// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/ground.h"

#include <vector>

namespace stone
{

/// A way on the floors of a level from one place to another, round walls: corners in order, both ends included. Empty when
/// there is none, or none that is found within a few tens of thousands of cells.
///
/// A* on a grid of a quarter of a metre (P. Hart, N. Nilsson, B. Raphael, IEEE Trans. SSC 4, 1968), then pulled straight
/// wherever a body can go without a turn. Takes milliseconds to a few hundred.
std::vector<Vec3> findWay(const Ground& ground, const Vec3& from, const Vec3& to);

} // namespace stone
