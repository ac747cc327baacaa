// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/words.h"
#include "cli/commands.h"
#include "cli/interrupt.h"
#include "engine/offline.h"
#include "posts/post_run.h"
#include "posts/spot_judge.h"
#include "posts/take_judge.h"
#include "project/atomic_file.h"
#include "takes/take_reader.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <iostream>
#include <unistd.h>

namespace stone::cli
{

namespace
{

using Json = nlohmann::ordered_json;

/// A folder for what is only needed meanwhile; it is gone when this is.
class OwnFolder
{
public:
    OwnFolder()
    {
        std::string path = (std::filesystem::temp_directory_path() / "stone-echo-posts-XXXXXX").string();
        if (mkdtemp(path.data()) == nullptr) {
            throw UsageError("no folder can be made in " + std::filesystem::temp_directory_path().string() +
                             ": takes are kept there while posts are judged");
        }
        path_ = path;
    }
    ~OwnFolder()
    {
        std::error_code none;
        std::filesystem::remove_all(path_, none);
    }
    OwnFolder(const OwnFolder&) = delete;
    OwnFolder& operator=(const OwnFolder&) = delete;

    const std::filesystem::path& path() const { return path_; }

private:
    std::filesystem::path path_;
};

/// As it may stand in an attribute of XML too; what may not is left out.
std::string escaped(const std::string& text)
{
    std::string out;
    for (const char c : escapedMarkup(text)) {
        if (c == '\n' || c == '\t') {
            out += c == '\n' ? "&#10;" : "&#9;";
        } else if (static_cast<unsigned char>(c) >= 0x20) {
            out += c;
        }
    }
    return out;
}

std::string placeOf(const Level& level, const PostResult& result)
{
    char text[96];
    std::snprintf(text, sizeof text, "at %.1f, %.1f, %.1f", result.at.x, result.at.y, result.at.z);
    std::string place = text;
    if (result.t_s >= 0.0) {
        const Walk* walk = level.walks.find(result.walk);
        std::snprintf(text, sizeof text, ", %.2f s", result.t_s);
        place += text + (walk != nullptr ? " into " + walk->name : std::string());
    }
    return place;
}

/// The common subset of what build servers read: a suite for the level, a case for each post.
std::string junitOf(const Level& level, const std::vector<PostResult>& results, double took_s)
{
    const auto count = [&](auto&& is) { return std::to_string(std::count_if(results.begin(), results.end(), is)); };
    char took[32];
    std::snprintf(took, sizeof took, "%.3f", took_s);
    std::string out = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites>\n  <testsuite name=\"" + escaped(level.name) +
                      "\" tests=\"" + std::to_string(results.size()) + "\" failures=\"" +
                      count([](const PostResult& r) { return r.judged && !r.met; }) + "\" errors=\"" +
                      count([](const PostResult& r) { return !r.judged; }) + "\" time=\"" + took + "\">\n";
    for (const PostResult& result : results) {
        const Post& post = *level.posts.find(result.post);
        out += "    <testcase classname=\"" + escaped(level.name) + "\" name=\"" + escaped(post.name) + "\"";
        if (result.judged && result.met) {
            out += "/>\n";
            continue;
        }
        const char* kind = result.judged ? "failure" : "error";
        const std::string why = post.reason.empty() ? std::string() : "\n" + post.reason;
        out += std::string(">\n      <") + kind + " message=\"" + escaped(result.words) + "\">" +
               escaped(placeOf(level, result) + why) + "</" + kind + ">\n    </testcase>\n";
    }
    return out + "  </testsuite>\n</testsuites>\n";
}

Json jsonOf(const Level& level, const PostResult& result)
{
    const auto rounded = [](double value) { return std::isfinite(value) ? Json(std::round(value * 100.0) / 100.0) : Json(); };
    const Post& post = *level.posts.find(result.post);
    Json json{{"id", post.id.text}, {"name", post.name},     {"judged", result.judged},
              {"met", result.met},  {"words", result.words}, {"reason", post.reason}};
    if (result.judged) {
        json["found"] = rounded(result.found);
        json["margin"] = rounded(result.margin);
        json["unit"] = unitOf(post.expects);
        json["at"] = {rounded(result.at.x), rounded(result.at.y), rounded(result.at.z)};
        if (result.t_s >= 0.0) {
            json["t_s"] = rounded(result.t_s);
            json["walk"] = result.walk.text;
        }
    }
    return json;
}

void print(const Level& level, const PostResult& result)
{
    const Post& post = *level.posts.find(result.post);
    char margin[48] = "";
    if (result.judged) {
        std::snprintf(margin, sizeof margin, "%+.1f %s", result.margin, unitOf(post.expects));
    }
    std::printf("%-8s %12s  %s: %s\n",
                !result.judged ? "?"
                : result.met   ? "holds"
                               : "BROKEN",
                margin, post.name.c_str(), result.words.c_str());
    if (!result.met) {
        std::printf("%22s %s%s%s\n", "", result.judged ? placeOf(level, result).c_str() : "",
                    result.judged && !post.reason.empty() ? "; " : "", post.reason.c_str());
    }
}

} // namespace

int posts(const PostsOptions& options)
{
    const Opened opened = open(options.project);
    const Level& level = opened.level(options.level);
    const std::vector<Post> wanted = postsOf(level);
    const InterruptGuard guard;
    const bool terminal = isatty(STDERR_FILENO) != 0;
    const auto start = std::chrono::steady_clock::now();
    const auto goOn = [&](const std::string& what, double part) {
        if (terminal) {
            std::fprintf(stderr, "\r\033[K%s %3.0f %%", what.c_str(), part * 100.0);
        }
        return !wasInterrupted();
    };
    std::vector<PostResult> results;
    if (!options.take.empty()) {
        results = judgeTake(Take(options.take), level, wanted, [&](double part) { return goOn("take", part); });
    } else if (!wanted.empty()) {
        constexpr int rate = 48'000;
        SoundBank bank(workingRate(rate), measuring(Measure::peak));
        const OwnFolder folder;
        results = judgePosts(
            {.scene = makeScene(opened.project, level.id, bank, filesInside(opened.folder), Loading::now, opened.ground(level)),
             .posts = wanted,
             .folder = folder.path(),
             .rate = rate,
             .threads = options.threads,
             .progress = goOn});
    }
    if (terminal) {
        std::fputs("\r\033[K", stderr);
    }
    if (wasInterrupted()) {
        std::cerr << "interrupted\n";
        return 130;
    }
    const double took_s = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    if (!options.junit.empty()) {
        writeAtomically(options.junit, junitOf(level, results, took_s));
    }
    const auto broken = std::count_if(results.begin(), results.end(), [](const PostResult& result) { return !result.met; });
    if (options.json) {
        Json list = Json::array();
        for (const PostResult& result : results) {
            list.push_back(jsonOf(level, result));
        }
        std::cout << Json{{"level", level.name}, {"broken", broken}, {"posts", std::move(list)}}.dump(2) << '\n';
    } else {
        for (const PostResult& result : results) {
            print(level, result);
        }
        std::printf("%zu posts, %td of them broken\n", results.size(), broken);
    }
    return broken > 0 ? 1 : 0;
}

} // namespace stone::cli
