#pragma once

#include "analysis/findings.h"

namespace stone
{

/// What is amiss with zones, areas, sprinkles, Roamers, steps and start rules of a level. `ground`: its geometry, or null.
void findInAmbience(const Project& project, const Level& level, const std::shared_ptr<const Ground>& ground, Loading loading,
                    std::vector<Finding>& found);

} // namespace stone
