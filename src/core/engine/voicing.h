// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/step_plan.h"
#include "hearing/model.h"
#include "media/sample_buffer.h"

#include <optional>

namespace stone
{

/// How many voices a sound takes on an emitter: one for each channel of a bed, of an image or of a sound made for two
/// ears, else one.
std::size_t voicesOf(const Emitter& emitter, const SampleBuffer& audio, bool binaural);

/// Which of a file's channels a voice plays: one of them, or the mean of all times a gain.
struct ChannelPick {
    std::optional<std::size_t> channel;
    double gain = 1.0;
};
ChannelPick pickOf(const Emitter& emitter, const SampleBuffer& audio, std::size_t voice, bool binaural);

/// One voice of an emitter, and what is known about it in a step.
struct Voicing {
    Layout layout;
    const HeadFilters* head; ///< binaural only
    const Emitter& emitter;
    const Heard& heard;
    std::size_t voices; ///< of the emitter
    std::size_t voice;  ///< below voices
    double level_db;    ///< beyond what is heard of the emitter
};

/// Fills in how a voice goes to the channels of the mix. Control thread.
void shapeVoice(const Voicing& voicing, VoiceOrder& order);

} // namespace stone
