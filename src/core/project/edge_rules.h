// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"
#include "project/lane.h"

#include <string>
#include <vector>

namespace stone
{

/// Where a floor ends, told by what is beyond.
enum class EdgeKind {
    drop, ///< the ground ahead lies lower by more than a step
    wall, ///< it rises by more than a step, or something stands in the way
    kerb, ///< a single difference that is walked over
    step, ///< one of several, each within a stride of the next: stairs
    water ///< what is ahead is of a material that counts as water, whatever lies between
};
constexpr std::size_t edgeKindCount = 5;

/// The kind as the document, the command line and the window write it.
const char* wordOf(EdgeKind kind);

/// What counts as an edge of a level's floor.
struct EdgeRules {
    double step_m = 0.5;                     ///< what is lower by more is a drop, what is higher by more a wall; > kerb_m
    double kerb_m = 0.05;                    ///< differences below it are none; > 0
    double stride_m = 0.8;                   ///< so far ahead of the edge it is looked for what the ground does; > 0
    std::vector<std::string> water{"water"}; ///< materials that hold nobody: those whose name contains one of these
    Extras extras{};

    bool operator==(const EdgeRules&) const = default;
};

} // namespace stone
