// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "takes/take_reader.h"

namespace stone
{

/// Where one went in a take, as a walk that goes there again in the same time, with what was sent and set on the way: of what
/// a project still has by name, since a take knows no more than names. Bursts are not among it: a take keeps how many, and
/// not of what. Without id and name; without points where the take has fewer than two moments.
Walk walkOf(const Take& take, const Project& project);

} // namespace stone
