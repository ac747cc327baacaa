// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "device/audio_device.h"

namespace stone
{

/// How cards that a PulseAudio server has (or what speaks like one) are named in SoundCard::api.
inline constexpr const char* pulseApi = "Pulse";

/// The server's outputs that can play stereo, none where no server answers. May take a moment, three seconds at most where a
/// server hangs; never throws.
std::vector<SoundCard> pulseCards();

/// Opens one of them. The server is told which loudspeaker each channel is for, and asks for sound on one thread, which is the
/// source's: two requests make a block of `blockFrames`, and two blocks are waiting for the card. Throws std::runtime_error
/// with one line when it cannot be had.
std::unique_ptr<AudioDevice> openPulseCard(const SoundCard& card, int rate, std::size_t blockFrames, unsigned channels);

} // namespace stone
