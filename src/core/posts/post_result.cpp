#include "posts/post_result.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace stone
{

namespace
{

/// With a true minus, as people read it.
std::string written(double value, int decimals, const char* unit)
{
    char text[48];
    std::snprintf(text, sizeof text, "%.*f", decimals, std::abs(value));
    const bool minus = value < 0.0 && std::any_of(text, text + std::char_traits<char>::length(text),
                                                  [](char c) { return c >= '1' && c <= '9'; });
    return (minus ? "\u2212" : "") + std::string(text) + (*unit != '\0' ? std::string(" ") + unit : std::string());
}

std::string range(const Post& post, const char* unit)
{
    const bool least = post.least_db > noLeast_db;
    const bool most = post.most_db < noMost_db;
    std::string text = least && most ? "from " + written(post.least_db, 1, "") + " to " + written(post.most_db, 1, unit)
                       : least       ? "at " + written(post.least_db, 1, unit) + " or more"
                       : most        ? "at " + written(post.most_db, 1, unit) + " or less"
                                     : "at any level";
    if (post.tolerance_db > 0.0) {
        text += " (within " + written(post.tolerance_db, 1, "dB") + ")";
    }
    return text;
}

std::string nameOf(const Level& level, const EmitterId& id, const char* nobody)
{
    const Emitter* emitter = level.emitters.find(id);
    return id.empty() ? nobody : emitter != nullptr ? emitter->name : id.text;
}

std::string foundIn(const Post& post, double found)
{
    const char* unit = unitOf(post.expects);
    switch (post.expects) {
    case Post::Expects::voices: return written(found, 0, found == 1.0 ? "voice" : "voices");
    case Post::Expects::by:
    case Post::Expects::every: return std::isfinite(found) ? written(found, 1, unit) : "never";
    case Post::Expects::masked: return written(found, 1, unit);
    case Post::Expects::loudness: return std::isfinite(found) ? written(found, 1, "LUFS") : "silence";
    default: return std::isfinite(found) ? written(found, 1, unit) : "not heard";
    }
}

} // namespace

const char* unitOf(Post::Expects expects)
{
    switch (expects) {
    case Post::Expects::voices: return "voices";
    case Post::Expects::by:
    case Post::Expects::every:
    case Post::Expects::masked: return "s";
    default: return "dB";
    }
}

std::string expectationOf(const Level& level, const Post& post)
{
    const std::string who = nameOf(level, post.emitter, "everything together");
    switch (post.expects) {
    case Post::Expects::level: return who + " " + range(post, "dB");
    case Post::Expects::above: return who + " above " + nameOf(level, post.other, "all others") + " " + range(post, "dB");
    case Post::Expects::heard: return who + " heard";
    case Post::Expects::unheard: return who + " not heard";
    case Post::Expects::voices: return "no more than " + std::to_string(post.count) + " voices";
    case Post::Expects::jumps: return "no jump over " + written(post.most_db, 1, "dB") + " in a tenth of a second";
    case Post::Expects::loudness: return "loudness " + range(post, "LUFS");
    case Post::Expects::by: return who + " heard within " + written(post.within_s, 1, "s");
    case Post::Expects::every: return who + " heard at least every " + written(post.within_s, 1, "s");
    case Post::Expects::masked: return "nothing that matters masked for longer than " + written(post.within_s, 1, "s");
    }
    return {};
}

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

PostResult judged(const Level& level, const Post& post, double found)
{
    PostResult result{.post = post.id, .judged = true, .found = found, .words = {}};
    switch (post.expects) {
    case Post::Expects::heard: result.margin = found - heardFrom_db; break;
    case Post::Expects::unheard: result.margin = heardFrom_db - found; break;
    case Post::Expects::voices: result.margin = post.count - found; break;
    case Post::Expects::jumps: result.margin = post.most_db + post.tolerance_db - found; break;
    case Post::Expects::by:
    case Post::Expects::every:
    case Post::Expects::masked: result.margin = post.within_s - found; break;
    default: {
        const double above = post.least_db > noLeast_db ? found - (post.least_db - post.tolerance_db) : noMost_db;
        const double below = post.most_db < noMost_db ? post.most_db + post.tolerance_db - found : noMost_db;
        result.margin = std::min(above, below);
        break;
    }
    }
    // What cannot be told from the bound meets it; what is silent misses by no more than can be said.
    constexpr double rounding = 1e-6;
    constexpr double most = 200.0;
    result.met = result.margin >= -rounding;
    result.margin = std::clamp(result.margin, -most, most);
    result.words = foundIn(post, found) + "; expected: " + expectationOf(level, post);
    return result;
}

const PostResult& worse(const PostResult& a, const PostResult& b)
{
    if (a.judged != b.judged) {
        return a.judged ? b : a;
    }
    return b.margin < a.margin ? b : a;
}

} // namespace stone
