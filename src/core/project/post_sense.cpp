// SPDX-License-Identifier: MPL-2.0
#include "project/post_sense.h"

#include <algorithm>
#include <cstdio>

namespace stone
{

namespace
{

/// What a post wants of a level, as a range; nothing where it is about something else.
std::optional<std::pair<double, double>> wantedOf(const Post& post)
{
    switch (post.expects) {
    case Post::Expects::level: return std::pair(post.least_db - post.tolerance_db, post.most_db + post.tolerance_db);
    case Post::Expects::heard: return std::pair(heardFrom_db, noMost_db);
    case Post::Expects::unheard: return std::pair(noLeast_db, heardFrom_db);
    default: return {};
    }
}

} // namespace

std::optional<std::string> whyNever(const Level& level, const Post& post)
{
    const auto gone = [&](const EmitterId& id) { return !id.empty() && level.emitters.find(id) == nullptr; };
    if (gone(post.emitter) || gone(post.other)) {
        return "the emitter \"" + (gone(post.emitter) ? post.emitter : post.other).text + "\" does not exist";
    }
    if (post.where == Post::Where::walk && level.walks.find(post.walk) == nullptr) {
        return post.walk.empty() ? "no walk is chosen" : "the walk \"" + post.walk.text + "\" does not exist";
    }
    if (post.where == Post::Where::zone && level.zones.find(post.zone) == nullptr) {
        return post.zone.empty() ? "no zone is chosen" : "the zone \"" + post.zone.text + "\" does not exist";
    }
    if (post.where == Post::Where::walk && post.from_s >= level.walks.find(post.walk)->seconds()) {
        return "its stretch begins after the walk has ended";
    }
    if (post.where == Post::Where::level && level.walks.empty()) {
        return "the level has no walks";
    }
    if (post.to_s > 0.0 && post.to_s <= post.from_s) {
        return "its stretch ends before it begins";
    }
    if (post.expects == Post::Expects::above && post.emitter.empty()) {
        return "it has to say who is above the other";
    }
    if (post.expects == Post::Expects::above && post.emitter == post.other) {
        return "nobody is above itself";
    }
    const Emitter* emitter = level.emitters.find(post.emitter);
    if (emitter != nullptr && emitter->muted && post.expects != Post::Expects::unheard && post.least_db > noLeast_db) {
        return emitter->name + " is muted";
    }
    return {};
}

std::vector<PostClash> clashesOf(const Level& level)
{
    constexpr double sameSpot_m = 0.1;
    std::vector<PostClash> clashes;
    for (std::size_t i = 0; i < level.posts.size(); ++i) {
        const Post& a = *level.posts[i];
        const auto wanted = wantedOf(a);
        for (std::size_t k = i + 1; wanted && a.on && a.where == Post::Where::spot && k < level.posts.size(); ++k) {
            const Post& b = *level.posts[k];
            const auto other = wantedOf(b);
            if (!other || !b.on || b.where != Post::Where::spot || a.emitter != b.emitter ||
                glm::length(a.at - b.at) > sameSpot_m) {
                continue;
            }
            const double apart_db = std::max(wanted->first - other->second, other->first - wanted->second);
            if (apart_db > 0.0 || (apart_db == 0.0 && a.expects != b.expects)) {
                char text[64];
                std::snprintf(text, sizeof text, "they are %.1f dB apart", std::max(apart_db, 0.0));
                clashes.push_back({a.id, b.id, text});
            }
        }
    }
    return clashes;
}

} // namespace stone
