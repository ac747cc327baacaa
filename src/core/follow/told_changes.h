#pragma once

#include "follow/osc.h"
#include "project/document.h"

#include <vector>

namespace stone
{

/// What a change of the document means for a game that plays it, as docs/osc.md lists it: what is otherwise now of emitters,
/// shared falloffs and their lanes, under the schema's own names. Of what is new everything. A property without a value is back
/// at what the schema says. Emitters and falloffs that are gone are not told of; the serial says that something is otherwise.
///
/// The levels are asked by id; nothing is told of one that either document does not have.
std::vector<OscMessage> changesTold(const Project& before, const Project& now, const LevelId& level);

} // namespace stone
