// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// Slips in how a project is being listened to.
void findInOutput(const Project& project, const OutputInUse& output, std::vector<Finding>& found);

} // namespace stone
