// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "world/planting.h"

#include <functional>
#include <string>
#include <vector>

namespace stone
{

/// A level as one page for a browser, to show others: one walks in it with the keys, and hears what a browser can play of it by
/// itself (W3C Web Audio API): Points by their formulas and cones, and beds that are everywhere. Needs no network and nothing
/// beside it.
struct WebPage {
    std::string html;
    std::size_t emitters = 0;           ///< that are heard
    std::vector<std::string> leavesOut; ///< in a line each; the page says them too
};

/// Puts it together. `planted`: the level with what its rules put there; `outline`: what is drawn of it, lines in metres east
/// and north; `bytesOf`: a sound's file, as a browser can read it (WAV, FLAC, Vorbis, Opus, MP3); empty: it is left out. Each
/// file is in it once.
WebPage webPageOf(const Project& planted, const LevelId& level, const std::vector<std::vector<Vec2>>& outline,
                  const std::function<std::string(const SoundFile&)>& bytesOf);

/// What is drawn of a level on such a page: its walls at the height of the eyes where the character begins. Null: nothing.
std::vector<std::vector<Vec2>> pageOutline(const Level& level, const Ground* ground);

} // namespace stone
