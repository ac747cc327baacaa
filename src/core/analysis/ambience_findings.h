// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// How loud a sound is as its files are, LUFS; nothing while they have not been read.
using LoudnessOf = std::function<std::optional<double>(const Sound&)>;

/// What is amiss with zones, areas, sprinkles, Roamers, steps and start rules of a level. `ground`: its geometry, or null.
void findInAmbience(const Project& project, const Level& level, const std::shared_ptr<const Ground>& ground, Loading loading,
                    const LoudnessOf& loudnessOf, std::vector<Finding>& found);

} // namespace stone
