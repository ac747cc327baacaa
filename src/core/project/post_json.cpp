// SPDX-License-Identifier: MPL-2.0
#include "project/post_json.h"

#include "project/fields.h"

namespace stone
{

namespace
{

constexpr const char* postWheres[] = {"spot", "walk", "zone", "level"};
constexpr const char* postExpects[] = {"level", "above",    "heard", "unheard", "voices",
                                       "jumps", "loudness", "by",    "every",   "masked"};
constexpr int mostVoices = 4096;

} // namespace

template <class Io> void describe(Io io, const Post&)
{
    io.word("where", &Post::where, postWheres);
    io.place("at", &Post::at);
    io.number("heading_deg", &Post::heading_deg, ranges::degrees);
    io.id("walk", &Post::walk);
    io.number("from_s", &Post::from_s, ranges::seconds);
    io.number("to_s", &Post::to_s, ranges::seconds);
    io.id("zone", &Post::zone);
    io.word("expects", &Post::expects, postExpects);
    io.id("emitter", &Post::emitter);
    io.id("other", &Post::other);
    io.number("least_db", &Post::least_db, {noLeast_db, noMost_db});
    io.number("most_db", &Post::most_db, {noLeast_db, noMost_db});
    io.number("tolerance_db", &Post::tolerance_db, {0.0, 60.0});
    io.whole("count", &Post::count, 0, mostVoices);
    io.number("within_s", &Post::within_s, {0.01, ranges::seconds.most});
    io.text("reason", &Post::reason);
    io.flag("on", &Post::on);
}

template <> Range rangeOf(double Post::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(int Post::*member)
{
    return describedRange(member);
}

void readPost(ObjectReader& reader, Post& post)
{
    describe(FieldReader(reader, post), post);
    if (post.least_db > post.most_db) {
        reader.fail("most_db", "the most is below the least; change the two round");
    }
    const bool overTime = post.expects == Post::Expects::loudness || post.expects == Post::Expects::jumps ||
                          post.expects == Post::Expects::masked;
    if (overTime && (post.where == Post::Where::spot || post.where == Post::Where::zone)) {
        reader.fail("expects", "loudness, jumps and masking are measured along a walk: let \"where\" be walk or level");
    }
    const bool inTime = post.expects == Post::Expects::by || post.expects == Post::Expects::every;
    if (inTime && post.where == Post::Where::zone) {
        reader.fail("expects", "what comes in time is listened for at a spot or along a walk, not in a zone");
    }
    post.extras = reader.rest();
}

Json toJson(const Post& post)
{
    Json json{{"id", post.id.text}, {"name", post.name}};
    describe(FieldWriter(json, post), post);
    addExtras(json, post.extras);
    return json;
}

} // namespace stone
