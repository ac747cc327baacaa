#pragma once

#include "engine/step_plan.h"

#include <span>

namespace stone
{

/// Reads a voice's next samples into `out` or, where they lie in memory as they are wanted, hands back a pointer to
/// them. `offset`: frames since the step began; every sample's place is worked out from the step's first frame, so that
/// the result does not depend on how a step is cut up. Silence before the sound's start and after the end of a
/// one-shot.
///
/// Between samples: 4-point, third-order Hermite (Catmull-Rom) interpolation: O. Niemitalo, "Polynomial Interpolators
/// for High-Quality Resampling of Oversampled Audio" (2001), section "Hermite". At rate 1 and a whole position it gives
/// the samples themselves, and they are then not touched at all.
///
/// Audio thread. out.size() <= stepFrames.
const float* readVoice(const VoiceOrder& order, std::size_t offset, std::span<float> out);

} // namespace stone
