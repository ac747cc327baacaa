// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"
#include "project/lane.h"

#include <string>

namespace stone
{

/// How a game wants its sounds: what they become when they are exported. Part of the document, so that everybody who works on
/// it writes the same.
struct SoundTarget {
    enum class Format {
        wav16, ///< whole numbers, with the noise of triangular dither below them
        wav24,
        flac, ///< of 24 bits
        vorbis,
        opus ///< at 48 kHz, unless another of its rates is asked for
    };
    enum class Loudness {
        kept,
        matched ///< each is made as loud as the others, and its level in the document says what that took
    };
    enum class Naming {
        files,  ///< as the files of the document are called, in their folders
        sounds, ///< after the sounds, numbered where one has several files
        plain   ///< likewise, in lower case letters, digits and underscores alone
    };

    SoundTargetId id{};
    std::string name{};
    Format format = Format::vorbis;
    int rate = 0;         ///< frames per second; 0: as each is
    double quality = 0.5; ///< of Vorbis and Opus; 0 small, 1 good
    bool fold = true;     ///< to one channel where a sound is only ever placed somewhere as one
    bool trim = false;    ///< what is silent before and after sounds that are no loops is left out
    Loudness loudness = Loudness::kept;
    double loudness_lufs = -23.0; ///< to which it is matched, integrated over the file (ITU-R BS.1770)
    Naming naming = Naming::files;
    Extras extras{};

    bool operator==(const SoundTarget&) const = default;
};

} // namespace stone
