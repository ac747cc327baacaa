// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// What is amiss with the plant rules of a level. `planted`: that level, see plant().
void findInPlants(const Planted& planted, std::vector<Finding>& found);

} // namespace stone
