// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/solid.h"

namespace stone
{

class Ground;

/// A shape of the document where it stands in a level; one that is a node of the level's geometry with that node's triangles,
/// and with none where there is no such node. `ground`: null when there is no geometry.
Solid placedSolid(const Shape& shape, const Vec3& at, double heading_deg, const Ground* ground);

} // namespace stone
