#pragma once

#include "engine/step_plan.h"
#include "hearing/model.h"
#include "media/sample_buffer.h"

namespace stone
{

/// How many voices an emitter takes: one for each channel of a bed or an image, else one.
std::size_t voicesOf(const Emitter& emitter, const SampleBuffer& audio);

/// One voice of an emitter, and what is known about it in a step.
struct Voicing {
    Layout layout;
    const HeadFilters* head; ///< binaural only
    const Emitter& emitter;
    const Heard& heard;
    const SampleBuffer& audio;
    std::size_t channel; ///< below voicesOf()
};

/// Fills in which samples a voice reads and how it goes to the channels of the mix. Control thread.
void shapeVoice(const Voicing& voicing, VoiceOrder& order);

} // namespace stone
