// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// Posts that can never hold, contradict each other, or stand in a wall. `ground`: null: none.
void findInPosts(const Level& level, const Ground* ground, std::vector<Finding>& found);

} // namespace stone
