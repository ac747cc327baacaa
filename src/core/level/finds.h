// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "level/ground.h"

#include <string>

namespace stone
{

/// What has been found on a level's geometry so far and took long to find – the edges of its floor, ways on foot – as bytes, to
/// be kept beside it: whoever reads the same geometry again need not look for it. docs/pack-format.md has them.
std::string findsOf(const Ground& ground);

/// Gives a ground what was found on the same geometry before. False where the bytes are damaged, or of other geometry as far as
/// can be seen: then nothing is taken, and all is found anew when it is wanted.
bool giveFinds(const Ground& ground, const std::string& bytes);

} // namespace stone
