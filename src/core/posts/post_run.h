// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/scene.h"
#include "posts/post_result.h"

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace stone
{

/// Posts of a level to be judged with all that they need: those that stand still by the hearing model, the others along takes
/// that are rendered for them.
struct PostRun {
    std::shared_ptr<const Scene> scene{}; ///< sounds at the working rate of `rate`
    std::vector<Post> posts{};
    std::filesystem::path folder{}; ///< for takes, which are removed again; must exist
    int rate = 48'000;
    unsigned threads = 1;
    /// What is being done, and how far it is, 0 to 1; false stops: what is left is unjudged. Empty: nobody is told.
    std::function<bool(const std::string& what, double part)> progress{};
};

/// The posts that count: all that are switched on.
std::vector<Post> postsOf(const Level& level);

/// One result for each post, in their order: of one along several walks the worst. Throws FileError where a take cannot be
/// written.
std::vector<PostResult> judgePosts(const PostRun& run);

} // namespace stone
