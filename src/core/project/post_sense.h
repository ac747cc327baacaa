// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace stone
{

/// Why a post can never be judged, or met: it refers to what does not exist, or contradicts itself; nothing where it can.
std::optional<std::string> whyNever(const Level& level, const Post& post);

/// Two posts of a level that can never both hold: at one spot, of the same emitter, with bounds that do not meet, or heard and
/// not heard. In words: by how much.
struct PostClash {
    PostId first;
    PostId second;
    std::string words;
};
std::vector<PostClash> clashesOf(const Level& level);

} // namespace stone
