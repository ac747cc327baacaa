// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "analysis/findings.h"

namespace stone
{

/// Slips in a falloff's lanes: no range, ends in the wrong order, a level that rises or jumps, an end that never comes.
void findInFalloff(const Falloff& falloff, const std::string& where, const LevelId& level, const EmitterId& emitter,
                   std::vector<Finding>& found);

/// Slips in how a level's emitters are set up: facing, placement, references, loops that phase. `size_m`: from corner to
/// corner of the level's geometry, 0 where there is none.
void findInEmitters(const Project& project, const Level& level, double size_m, std::vector<Finding>& found);

/// A Point that plays several channels without anybody having decided how, with both answers as remedies.
void findChannels(const Level& level, const Emitter& emitter, const SampleBuffer& buffer, std::vector<Finding>& found);

} // namespace stone
