// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "world/run_watch.h"

#include <QObject>

#include <optional>

namespace stone
{

/// A run to the goal of a walk that is under way, or was last: its clock, what one has come to, the best time. It puts whoever
/// fell back, and sends the run's signals. Window thread only.
class RunClock : public QObject
{
    Q_OBJECT

public:
    RunClock(Session& session, Playback& playback, QObject* parent = nullptr);

    /// Begins at the beginning of a walk that has a goal, with the level as it begins; false where it has none.
    bool begin(const WalkId& id);
    /// Gives it up, or puts its result away.
    void end();

    /// Under way: the clock runs, or waits for the first step.
    bool on() const { return watch_ && !watch_->over(); }
    /// Under way, or just over: there is something to show.
    bool shown() const { return watch_.has_value(); }
    double seconds() const { return watch_ ? watch_->seconds() : 0.0; }
    /// Of all runs of that walk that came to the goal; nothing: none has.
    std::optional<double> best_s(const WalkId& walk) const;
    void forgetBest(const WalkId& walk);
    /// "0:42.3 · best 0:40.1 · 1 of 2 checkpoints · 2 falls"
    QString words() const;
    /// As on a clock, with tenths.
    static QString clock(double seconds);

signals:
    /// It began, or was ended.
    void changed();
    /// The clock went on.
    void ticked();
    /// Something to be said: "checkpoint 1", "fell, back to the start", "goal".
    void news(const QString& words);
    void reached(double seconds, bool best);

private:
    void follow();
    QString keyOf(const WalkId& walk) const;
    const Walk* walk() const { return session_.level().walks.find(walk_); }

    Session& session_;
    Playback& playback_;
    LevelId level_;
    WalkId walk_;
    std::optional<RunWatch> watch_;
    double level_s_ = 0.0; ///< the level's time when it was looked at last
};

} // namespace stone
