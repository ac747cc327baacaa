// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/mesh.h"

#include <vector>

namespace stone
{

/// How many square metres of each of a mesh's materials there are, both faces of a wall counted; 0 for those that no
/// triangle has.
std::vector<double> surfaceAreas_m2(const Mesh& mesh);

} // namespace stone
