// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

namespace stone
{

/// Whether what an emitter plays goes round and round, by its own rule or its sound's.
inline bool looped(const Project& project, const Emitter& emitter)
{
    const Sound* sound = project.sounds.find(emitter.sound);
    return emitter.starting.rounds == Rounds::endless ||
           (emitter.starting.rounds == Rounds::asTheSound && sound != nullptr && sound->loop);
}

} // namespace stone
