// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "follow/osc.h"
#include "hearing/terms.h"
#include "project/document.h"

#include <span>
#include <vector>

namespace stone
{

/// What a change of the document means for a game that plays it, as docs/osc.md lists it: what is otherwise now of emitters,
/// shared falloffs and their lanes, under the schema's own names. Of what is new everything. A property without a value is back
/// at what the schema says. Emitters and falloffs that are gone are not told of; the serial says that something is otherwise.
///
/// The levels are asked by id; nothing is told of one that either document does not have.
std::vector<OscMessage> changesTold(const Project& before, const Project& now, const LevelId& level);

/// So often, in seconds, games are told what is heard; and more at once, or quieter ones, none needs to show.
constexpr double tellHeardEvery_s = 0.25;
constexpr std::size_t mostHeardTold = 32;
constexpr double leastHeardTold_db = -80.0;
/// How loud each emitter is heard, the loudest first, each once. `level`: of the scene that was heard.
std::vector<OscMessage> heardTold(const Level& level, std::span<const Heard> heard);

} // namespace stone
