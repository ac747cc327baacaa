// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"
#include "project/post_sense.h"

#include <optional>
#include <string>

namespace stone
{

/// How a post stands.
struct PostResult {
    PostId post{};
    bool judged = false; ///< otherwise `words` says why not
    bool met = false;
    double margin =
        0.0; ///< what is left to the nearest bound, its tolerance counted: dB, voices or seconds; below 0: missed by that
    double found = 0.0;  ///< what was measured where that is: dB, LUFS, voices or seconds; minus infinity: silence
    Vec3 at{0.0};        ///< where: the character's feet
    double t_s = -1.0;   ///< when, along its walk; below 0: at no time
    WalkId walk{};       ///< of those, where it stands on one
    std::string words{}; ///< one line: what was found, and what was expected
};

/// What a post expects, as a sentence: "Departure board at −25 dB or more".
std::string expectationOf(const Level& level, const Post& post);
/// The unit of its margin.
const char* unitOf(Post::Expects expects);

/// Judges a number by a post's bounds. `found`: minus infinity is softer than any.
PostResult judged(const Level& level, const Post& post, double found);
/// The worse of two results of a post; one that is not judged is worst.
const PostResult& worse(const PostResult& a, const PostResult& b);

} // namespace stone
