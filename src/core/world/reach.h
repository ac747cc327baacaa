// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

namespace stone
{

/// Below this level at the ears a sound counts as silent: 80 dB under a full-scale recording is under the noise of any
/// room in which one plays. What is silent costs nothing.
constexpr double audible_db = -80.0;

/// From this distance on an emitter is silent, whatever its level: the end of its falloff, by its family's reach; infinite
/// where there is none, and for what is partly fixed in the ears.
double silentFrom_m(const Project& project, const Emitter& emitter);

/// Beyond this distance nobody needs to ask for an emitter: it cannot be heard there, at the level that its sound, its family
/// and its lanes can give it at most. Infinite for what is partly fixed in the ears.
double audibleWithin_m(const Project& project, const Emitter& emitter);

} // namespace stone
