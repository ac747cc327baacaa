// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <bitset>
#include <cstddef>

namespace stone
{

/// What can be left out of the Plan so that the rest can be read.
enum class PlanPart { zones, rooms, openings, walks, places, gaze, rays, routes, silent, names, grid, posts, edges };
constexpr std::size_t planPartCount = 13;
using PlanParts = std::bitset<planPartCount>;

/// As settings keep it: in the order of the parts.
constexpr const char* planPartKeys[planPartCount] = {"zones",  "rooms",  "openings", "walks", "places", "gaze", "rays",
                                                     "routes", "silent", "names",    "grid",  "posts",  "edges"};
/// Whether it is drawn until somebody says otherwise: edges of the floor are many.
constexpr bool usuallyShown(PlanPart part)
{
    return part != PlanPart::edges;
}

} // namespace stone
