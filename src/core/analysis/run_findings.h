// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// What is amiss with runs to a goal: zones that are gone, and drops or walls within a stride of the way that nothing tells of.
/// `level`: with what is planted; `edges`: of its floor, or null while they are not known.
void findInRuns(const Level& level, const FloorEdges* edges, std::vector<Finding>& found);

} // namespace stone
