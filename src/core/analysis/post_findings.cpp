// SPDX-License-Identifier: MPL-2.0
#include "analysis/post_findings.h"

#include "project/post_sense.h"

namespace stone
{

void findInPosts(const Level& level, const Ground* ground, std::vector<Finding>& found)
{
    const auto called = [](const Post& post) { return "Post \"" + post.name + '"'; };
    for (const auto& post : level.posts) {
        if (!post->on) {
            continue;
        }
        if (const auto why = whyNever(level, *post)) {
            found.push_back({.code = "post-never",
                             .severity = Finding::Severity::warning,
                             .what = "what it expects can never be: " + *why,
                             .where = called(*post),
                             .fix = "change it under Posts, or switch it off",
                             .level = level.id,
                             .emitter = post->emitter});
        }
        const Vec3 ears = post->at + Vec3{0.0, 0.0, level.character.earsHeight_m};
        if (post->where == Post::Where::spot && ground != nullptr && ground->insideSolid(ears)) {
            found.push_back({.code = "post-in-wall",
                             .severity = Finding::Severity::warning,
                             .what = "nobody can stand there: its ears are inside a wall",
                             .where = called(*post),
                             .fix = "move it to where one can stand",
                             .level = level.id,
                             .emitter = post->emitter});
        }
    }
    for (const PostClash& clash : clashesOf(level)) {
        found.push_back({.code = "posts-contradict",
                         .severity = Finding::Severity::warning,
                         .what = "it and \"" + level.posts.find(clash.second)->name + "\" cannot both hold: " + clash.words,
                         .where = called(*level.posts.find(clash.first)),
                         .fix = "change one of them, or switch it off",
                         .level = level.id,
                         .emitter = level.posts.find(clash.first)->emitter});
    }
}

} // namespace stone
