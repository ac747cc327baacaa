// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// What is amiss with the rigs: the one in use, and what they do to hearing.
void findInEars(const Project& project, std::vector<Finding>& found);

} // namespace stone
