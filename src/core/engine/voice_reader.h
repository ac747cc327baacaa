// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/step_plan.h"

#include <span>

namespace stone
{

/// Reads a voice's samples of one step into `out` or, where they lie in memory as they are wanted, hands back a pointer
/// to them. Silence before the sound's start and after the end of a one-shot.
///
/// Between samples: see readSinc. At rate 1 and a whole position it gives the samples themselves, and they are then not
/// touched at all.
///
/// Audio thread. out.size() == stepFrames.
const float* readVoice(const VoiceOrder& order, std::span<float> out);

/// Whether a step's sound is anything but at its full level throughout.
bool isShaped(const Envelope& envelope, std::size_t frames);

/// Puts the fades of a step into effect: gain x * sqrt(3 - 2x) over the share x of a fade. The power gains of a fade-in and
/// of the fade-out that it meets add up to 1, so that unlike sounds cross-fade evenly. Silence before the piece begins and
/// after it ends. Audio thread.
void shape(const Envelope& envelope, std::span<float> samples);

} // namespace stone
