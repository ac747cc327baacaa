// SPDX-License-Identifier: MPL-2.0
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
    case Post::Expects::voices: return "no more than " + std::to_string(post.count) + (post.count == 1 ? " voice" : " voices");
    case Post::Expects::jumps: return "no jump over " + written(post.most_db, 1, "dB") + " in a tenth of a second";
    case Post::Expects::loudness: return "loudness " + range(post, "LUFS");
    case Post::Expects::by: return who + " heard within " + written(post.within_s, 1, "s");
    case Post::Expects::every: return who + " heard at least every " + written(post.within_s, 1, "s");
    case Post::Expects::masked: return "nothing that matters masked for longer than " + written(post.within_s, 1, "s");
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
