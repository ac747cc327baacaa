// SPDX-License-Identifier: MPL-2.0
#include "posts/post_run.h"

#include "posts/spot_judge.h"
#include "posts/take_judge.h"
#include "takes/walk_taking.h"

#include <algorithm>
#include <map>
#include <set>

namespace stone
{

namespace
{

/// At a spot one listens for so many times as long as what is to come again may stay away.
constexpr double timesOver = 3.0;

/// A file that is gone when this is.
struct Scratch {
    std::filesystem::path path;
    ~Scratch()
    {
        std::error_code none;
        std::filesystem::remove(path, none);
    }
};

class Run
{
public:
    explicit Run(const PostRun& run) : run_(run), level_(run.scene->model.level()) {}

    std::vector<PostResult> results()
    {
        std::vector<Post> standing;
        std::vector<Post> walked;
        std::set<WalkId> walks;
        for (const Post& post : run_.posts) {
            if (const auto never = whyNever(level_, post)) {
                results_[post.id] = {.post = post.id, .words = *never};
            } else if (standsStill(post)) {
                standing.push_back(post);
            } else if (post.where == Post::Where::spot) {
                waitAt(post);
            } else {
                walked.push_back(post);
                if (post.where == Post::Where::walk) {
                    walks.insert(post.walk);
                }
                for (const auto& walk : level_.walks) {
                    if (post.where == Post::Where::level) {
                        walks.insert(walk->id);
                    }
                }
            }
        }
        for (PostResult& result :
             judgeStanding(run_.scene->model, standing, run_.threads, [&] { return goOn("standing", 0.0); })) {
            results_[result.post] = std::move(result);
        }
        for (const WalkId& id : walks) {
            const Walk& walk = *level_.walks.find(id);
            WalkTaking taking{.scene = run_.scene, .walk = &walk, .rate = run_.rate};
            along(taking, walk.name, walked);
        }
        std::vector<PostResult> all;
        for (const Post& post : run_.posts) {
            const auto found = results_.find(post.id);
            all.push_back(found != results_.end() ? found->second : PostResult{.post = post.id, .words = "not judged"});
        }
        return all;
    }

private:
    bool goOn(const std::string& what, double part)
    {
        stopped_ = stopped_ || (run_.progress && !run_.progress(what, part));
        return !stopped_;
    }

    /// A take of it, for as long as it is looked at; nothing where that was stopped.
    template <class Look> void withTake(const WalkTaking& taking, const std::string& what, Look&& look)
    {
        if (stopped_) {
            return;
        }
        const Scratch file{run_.folder / ("posts-" + std::to_string(takes_++) + ".take")};
        if (takeWalk(taking, file.path, [&](double part) { return goOn(what, part); })) {
            look(Take(file.path));
        }
    }

    void along(const WalkTaking& taking, const std::string& what, const std::vector<Post>& posts)
    {
        withTake(taking, what, [&](const Take& take) {
            for (PostResult& result : judgeTake(take, level_, posts)) {
                const auto known = results_.find(result.post);
                if (known == results_.end()) {
                    results_.emplace(result.post, std::move(result));
                } else {
                    known->second = worse(known->second, result);
                }
            }
        });
    }

    /// What is to be heard in time where one stands.
    void waitAt(const Post& post)
    {
        WalkTaking taking{.scene = run_.scene, .feet = {post.at, post.heading_deg, 0.0, 0.0}, .rate = run_.rate};
        taking.seconds = post.expects == Post::Expects::every ? timesOver * post.within_s : post.within_s;
        withTake(taking, post.name, [&](const Take& take) { results_[post.id] = judgeAlong(take, level_, post); });
    }

    const PostRun& run_;
    const Level& level_;
    std::map<PostId, PostResult> results_;
    bool stopped_ = false;
    int takes_ = 0;
};

} // namespace

std::vector<Post> postsOf(const Level& level)
{
    std::vector<Post> posts;
    for (const auto& post : level.posts) {
        if (post->on) {
            posts.push_back(*post);
        }
    }
    return posts;
}

std::vector<PostResult> judgePosts(const PostRun& run)
{
    return Run(run).results();
}

} // namespace stone
