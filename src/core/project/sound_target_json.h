// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/object_reader.h"
#include "project/sound_target.h"

namespace stone
{

/// Without its id and name.
void readSoundTarget(ObjectReader& reader, SoundTarget& target);
Json toJson(const SoundTarget& target);

/// As documents and the command line write it: wav16, wav24, flac, vorbis, opus.
const char* wordOf(SoundTarget::Format format);
constexpr std::size_t soundFormatCount = 5;
/// files, sounds, plain.
const char* wordOf(SoundTarget::Naming naming);
constexpr std::size_t soundNamingCount = 3;

} // namespace stone
