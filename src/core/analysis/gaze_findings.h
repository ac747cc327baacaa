// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// Slips in a project's gazes: changes at a stroke, what must always be heard and is not exempt, references that lead
/// nowhere, gazes that do nothing.
void findInGazes(const Project& project, std::vector<Finding>& found);

} // namespace stone
