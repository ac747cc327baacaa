// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/mesh.h"
#include "project/document.h"

#include <optional>
#include <vector>

namespace stone
{

/// The storeys that a level's geometry shows, from the highest down: heights at which much of it can be stood on, in metres.
///
/// It is looked at from above in squares of half a metre (coarser where it is more than 200 m wide). One can stand on what
/// faces up no steeper than 45 degrees and has 1.8 m free over it. What counts can be walked to from the largest floor; what
/// cannot only where it is large and has something over it: roofs and the tops of walls do not. Of two floors that are less
/// than 1.6 metres apart the larger is a storey, with all that lies within a step of it. Empty where there is no floor.
std::vector<Storey> findStoreys(const Mesh& mesh, double metresPerUnit = 1.0);

/// A place to stand on the storey that lies nearest to height 0, with room on all sides, as near as there is to the middle of
/// the level; metres. Nothing where there is none.
std::optional<Vec3> standingPlace(const Mesh& mesh, double metresPerUnit = 1.0);

} // namespace stone
