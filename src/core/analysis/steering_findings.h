// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// References of a project's game values and families that lead nowhere: signals, values, falloffs that are gone.
void findInSteering(const Project& project, std::vector<Finding>& found);

} // namespace stone
