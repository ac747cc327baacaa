// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"
#include "level/obstacles.h"

namespace stone
{

/// Slips in how a level's walls are reckoned with: emitters within walls or shut in by their housing, surfaces of which
/// nothing is known, sounds that are heard further than walls count. `ground`: null for a level without geometry. `search`:
/// whether obstacles that are not there yet are made; see Ground::obstacles().
void findInWalls(const Project& project, const Level& level, const std::shared_ptr<const Ground>& ground, bool search,
                 std::vector<Finding>& found);

/// Whether something that sounds at a place is shut in by what sound meets: so far from it there is still solid stuff on
/// nearly all sides.
bool shutIn(const Obstacles& obstacles, const Vec3& place, double clear_m, const std::optional<std::uint32_t>& housing);

/// The nearest place where it is not; nothing when none is near.
std::optional<Vec3> movedOut(const Obstacles& obstacles, const Vec3& place, double clear_m);

} // namespace stone
