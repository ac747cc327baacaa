// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "project/picker.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>

namespace stone
{

/// The file that a one-shot of an emitter plays next, of sounds that play one of theirs; nothing for all others. `pickers`: by
/// playable; `purpose`: whose chance it is beside the emitter's and the sound's.
inline std::optional<std::size_t> pickedFile(std::map<std::uint32_t, Picker>& pickers, std::uint32_t playable,
                                             const Sound& sound, const std::string& emitterId, std::uint64_t seed,
                                             const char* purpose)
{
    if (sound.make != Make::one || sound.files.size() < 2) {
        return {};
    }
    return pickers
        .try_emplace(playable, seed, emitterId + ' ' + sound.id.text, purpose, sound.sequence.order, sound.files.size())
        .first->second.next();
}

} // namespace stone
