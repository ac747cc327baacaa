// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// Slips in who gives way: sounds that pile up without a limit, limits that always silence somebody, hold-offs longer than the
/// gap that is wanted, levels in which everything is vital.
void findInCrowds(const Project& project, const Level& level, std::vector<Finding>& found);

} // namespace stone
