// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "posts/post_run.h"

#include <QObject>
#include <QString>
#include <QThreadPool>
#include <QTimer>

#include <atomic>
#include <map>
#include <memory>

namespace stone
{

/// Judges the posts of the level that is shown, again and again as it is edited: those that stand still at once, those along
/// walks when nothing has been edited for a while and nobody listens, or when it is asked for. On threads that give way to all
/// others. Window thread only.
class PostDesk : public QObject
{
    Q_OBJECT

public:
    PostDesk(Session& session, Playback& playback, QObject* parent = nullptr);
    /// Stops what is being judged.
    ~PostDesk() override;

    /// How a post stands; null: nobody knows yet. Of those along walks it may be from before the last edit: see stale().
    const PostResult* resultOf(const PostId& id) const;
    /// Whether it was judged before the last edit.
    bool stale(const PostId& id) const;
    /// How many are broken, as far as is known.
    int broken() const;
    /// What is being judged, with how far it is; empty: nothing.
    QString doing() const;
    /// Judges those along walks now.
    void walkNow();
    /// Stops judging those along walks.
    void stopWalking();

    /// Looks for the edit that broke a post, by halves of the history: brokenBy() says which.
    void findBreaker(const PostId& id);

signals:
    /// Results have come, or are not what they were.
    void changed();
    void progressed();
    /// The edit that broke a post, in the history's words, or why there is none.
    void brokenBy(const PostId& id, const QString& words);

private:
    struct Job;

    void followDocument();
    void judgeStandingSoon();
    void judgeStill();
    void begin(bool walks);
    void take(const std::shared_ptr<Job>& job, std::vector<PostResult> results, bool walks);

    Session& session_;
    Playback& playback_;
    std::map<PostId, PostResult> results_;
    std::map<PostId, std::shared_ptr<const Project>> judgedIn_; ///< the document
    std::shared_ptr<Job> still_;
    std::shared_ptr<Job> walking_;
    LevelId level_;
    QThreadPool stillPool_;
    QThreadPool walkPool_;
    QTimer soon_;
    QTimer idle_;
    QTimer watch_;
};

} // namespace stone
