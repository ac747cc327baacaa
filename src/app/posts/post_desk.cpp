// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/posts/post_desk.h"

#include "app/session/the_last_to_run.h"
#include "posts/spot_judge.h"

#include <QTemporaryDir>

#include <algorithm>
#include <mutex>

namespace stone
{

namespace
{

constexpr int settled_ms = 20;
constexpr int idle_ms = 4'000;
constexpr int watchEvery_ms = 300;
/// So many steps of the history are looked through for the edit that broke a post.
constexpr std::size_t mostSteps = 1'000;

} // namespace

/// What is being judged, shared with the thread that does it.
struct PostDesk::Job {
    std::atomic<bool> stopped{false};
    std::atomic<double> progress{0.0};
    std::mutex mutex;
    std::string what; ///< guarded by `mutex`
    std::shared_ptr<const Scene> scene;
    std::shared_ptr<const Project> document;
    std::vector<Post> posts;
};

PostDesk::PostDesk(Session& session, Playback& playback, QObject* parent)
    : QObject(parent), session_(session), playback_(playback)
{
    stillPool_.setMaxThreadCount(1);
    walkPool_.setMaxThreadCount(1);
    soon_.setSingleShot(true);
    soon_.setInterval(settled_ms);
    idle_.setSingleShot(true);
    idle_.setInterval(idle_ms);
    watch_.setInterval(watchEvery_ms);
    connect(&soon_, &QTimer::timeout, this, &PostDesk::judgeStill);
    connect(&idle_, &QTimer::timeout, this, [this] {
        if (playback_.listening()) {
            idle_.start();
        } else {
            walkNow();
        }
    });
    connect(&watch_, &QTimer::timeout, this, &PostDesk::progressed);
    connect(&session_, &Session::documentChanged, this, &PostDesk::followDocument);
    connect(&playback_, &Playback::sceneChanged, this, &PostDesk::judgeStandingSoon);
    // Walls that were searched for, and sounds that were read, are in the scene by then.
    connect(&session_, &Session::waysFound, this, &PostDesk::judgeStandingSoon);
    connect(&session_, &Session::soundsChanged, this, &PostDesk::judgeStandingSoon);
    followDocument();
}

PostDesk::~PostDesk()
{
    for (const auto& job : {still_, walking_}) {
        if (job) {
            job->stopped = true;
        }
    }
    stillPool_.waitForDone();
    walkPool_.waitForDone();
}

const PostResult* PostDesk::resultOf(const PostId& id) const
{
    const auto found = results_.find(id);
    return found != results_.end() ? &found->second : nullptr;
}

bool PostDesk::stale(const PostId& id) const
{
    const auto found = judgedIn_.find(id);
    return found == judgedIn_.end() || found->second != session_.document();
}

int PostDesk::broken() const
{
    int count = 0;
    for (const auto& post : session_.level().posts) {
        const PostResult* result = post->on ? resultOf(post->id) : nullptr;
        count += result != nullptr && !result->met ? 1 : 0;
    }
    return count;
}

QString PostDesk::doing() const
{
    if (walking_ == nullptr) {
        return {};
    }
    const std::lock_guard lock(walking_->mutex);
    return tr("%1 · %2 %").arg(QString::fromStdString(walking_->what)).arg(std::lround(walking_->progress * 100.0));
}

void PostDesk::followDocument()
{
    if (session_.levelId() != level_) {
        level_ = session_.levelId();
        results_.clear();
        judgedIn_.clear();
    }
    if (session_.level().posts.empty()) {
        results_.clear();
        emit changed();
        return;
    }
    judgeStandingSoon();
}

void PostDesk::judgeStandingSoon()
{
    if (session_.level().posts.empty()) {
        return;
    }
    stopWalking();
    soon_.start();
    const auto& posts = session_.level().posts;
    if (std::any_of(posts.begin(), posts.end(), [](const auto& post) { return post->on && !standsStill(*post); })) {
        idle_.start();
    }
}

void PostDesk::judgeStill()
{
    begin(false);
}

void PostDesk::walkNow()
{
    idle_.stop();
    begin(true);
}

void PostDesk::stopWalking()
{
    idle_.stop();
    watch_.stop();
    if (walking_) {
        walking_->stopped = true;
        walking_.reset();
        emit progressed();
    }
}

void PostDesk::begin(bool walks)
{
    std::shared_ptr<Job>& slot = walks ? walking_ : still_;
    if (slot) {
        slot->stopped = true;
        slot.reset();
    }
    auto job = std::make_shared<Job>();
    job->document = session_.document();
    // What is heard otherwise, or silent, for these ears alone is not in what is expected of the document.
    if (!playback_.hearsOtherwise()) {
        job->scene = playback_.shownScene();
    }
    for (const Post& post : postsOf(session_.level())) {
        if (standsStill(post) != walks) {
            job->posts.push_back(post);
        }
    }
    if (job->posts.empty()) {
        emit changed();
        return;
    }
    slot = job;
    if (walks) {
        watch_.start();
        emit progressed();
    }
    const unsigned threads = std::max(std::thread::hardware_concurrency(), 1U);
    const SceneAsk ask{
        job->document, session_.levelId(), session_.files(), session_.loadedLevel().ground, playback_.head(), {}};
    (walks ? walkPool_ : stillPool_).start([this, job, walks, threads, ask, &bank = session_.bank()] {
        theLastToRun();
        if (job->scene == nullptr) {
            job->scene = ask.make(bank, nullptr);
        }
        std::vector<PostResult> results;
        if (!walks) {
            results = judgeStanding(job->scene->model, job->posts, threads, [&] { return !job->stopped; });
        } else {
            const QTemporaryDir folder;
            // Sounds are waited for as in any render.
            auto scene = std::make_shared<Scene>(*job->scene);
            scene->waits = true;
            try {
                results = judgePosts({.scene = std::move(scene),
                                      .posts = job->posts,
                                      .folder = folder.path().toStdString(),
                                      .threads = threads,
                                      .progress = [&](const std::string& what, double part) {
                                          const std::lock_guard lock(job->mutex);
                                          job->what = what;
                                          job->progress = part;
                                          return !job->stopped;
                                      }});
            } catch (const std::exception& error) {
                for (const Post& post : job->posts) {
                    results.push_back({.post = post.id, .words = error.what()});
                }
            }
        }
        if (!job->stopped) {
            QMetaObject::invokeMethod(
                this, [this, job, results = std::move(results), walks] { take(job, results, walks); }, Qt::QueuedConnection);
        }
    });
}

void PostDesk::take(const std::shared_ptr<Job>& job, std::vector<PostResult> results, bool walks)
{
    std::shared_ptr<Job>& slot = walks ? walking_ : still_;
    if (job != slot) {
        return;
    }
    slot.reset();
    if (walks) {
        watch_.stop();
    }
    for (PostResult& result : results) {
        judgedIn_[result.post] = job->document;
        const PostId id = result.post;
        results_[id] = std::move(result);
    }
    emit changed();
    emit progressed();
}

void PostDesk::findBreaker(const PostId& id)
{
    const Post* post = session_.level().posts.find(id);
    const PostResult* result = resultOf(id);
    if (post == nullptr || result == nullptr || result->met) {
        emit brokenBy(id, tr("It holds."));
        return;
    }
    // From the oldest to the present: the post as it is now, in each document.
    std::vector<History::Earlier> steps = session_.history().earlier(mostSteps);
    std::reverse(steps.begin(), steps.end());
    auto job = std::make_shared<Job>();
    job->scene = playback_.shownScene();
    job->posts = {*post};
    if (walking_) {
        walking_->stopped = true;
    }
    walking_ = job;
    watch_.start();
    const ProjectFiles files = session_.files();
    const std::shared_ptr<const Ground> ground = session_.loadedLevel().ground;
    walkPool_.start([this, job, steps, files, ground, level = session_.levelId(), &bank = session_.bank()] {
        theLastToRun();
        const QTemporaryDir folder;
        const auto holds = [&](std::size_t step) {
            const auto resolve = [&](const std::string& file) { return files.resolve(file); };
            PostRun run;
            run.scene = makeScene(steps[step].document, level, bank, resolve, Loading::now, ground);
            run.posts = job->posts;
            run.folder = folder.path().toStdString();
            run.progress = [&](const std::string&, double part) {
                job->progress = part;
                return !job->stopped;
            };
            return steps[step].document->levels.find(level) != nullptr && judgePosts(run).front().met;
        };
        QString words;
        try {
            // It is broken now. The last of the documents in which it held is looked for by halves; where it went to and fro
            // one of the edits is found that broke it.
            std::size_t good = 0;
            std::size_t bad = steps.size();
            if (steps.empty() || !holds(0)) {
                words = tr("It was broken as far back as the history goes.");
            } else {
                while (bad - good > 1 && !job->stopped) {
                    const std::size_t middle = (good + bad) / 2;
                    {
                        const std::lock_guard lock(job->mutex);
                        job->what = steps[middle].then;
                    }
                    (holds(middle) ? good : bad) = middle;
                }
                words = tr("Broken by: %1").arg(QString::fromStdString(steps[good].then));
            }
        } catch (const std::exception& error) {
            words = QString::fromUtf8(error.what());
        }
        QMetaObject::invokeMethod(
            this,
            [this, job, words] {
                if (job == walking_) {
                    walking_.reset();
                    watch_.stop();
                    emit progressed();
                    emit brokenBy(job->posts.front().id, words);
                }
            },
            Qt::QueuedConnection);
    });
}

} // namespace stone
