// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <string>
#include <vector>

namespace stone
{

/// A falloff to begin with, by situation, and why it is as it is.
struct StartingPoint {
    std::string name;
    std::string reason;
    Falloff falloff;
};

/// Made for this program, by ear and by the size of things; in order of reach.
const std::vector<StartingPoint>& startingPoints();

} // namespace stone
