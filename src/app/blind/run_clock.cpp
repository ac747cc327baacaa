// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/blind/run_clock.h"

#include "world/walk_pose.h"

#include <QSettings>

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace stone
{

RunClock::RunClock(Session& session, Playback& playback, QObject* parent)
    : QObject(parent), session_(session), playback_(playback)
{
    connect(&playback_, &Playback::ticked, this, &RunClock::follow);
    connect(&session_, &Session::documentChanged, this, [this] {
        if (watch_ && (session_.levelId() != level_ || walk() == nullptr || walk()->run.goal.empty())) {
            end();
        }
    });
}

bool RunClock::begin(const WalkId& id)
{
    const Walk* wanted = session_.level().walks.find(id);
    if (wanted == nullptr || wanted->run.goal.empty() || wanted->points.empty()) {
        return false;
    }
    level_ = session_.levelId();
    walk_ = id;
    const Pose start = walkPose(*wanted, 0.0);
    playback_.setListening(true);
    playback_.beginAnew(start);
    watch_.emplace(wanted->run, playback_.hearing().world().zones(), start);
    level_s_ = std::numeric_limits<double>::infinity(); // the first look sets it
    emit changed();
    return true;
}

void RunClock::end()
{
    if (watch_) {
        watch_.reset();
        emit changed();
    }
}

void RunClock::follow()
{
    if (!on()) {
        return;
    }
    const double now_s = playback_.when().to_s;
    if (!std::isfinite(now_s)) {
        return; // nothing plays: the clock waits
    }
    const double seconds = std::max(now_s - std::exchange(level_s_, now_s), 0.0);
    // Where the feet are, and not where the engine has them yet: who was put back is out of the pit at once.
    Moment here = playback_.moment();
    here.visitor = playback_.feet().at + Vec3{0.0, 0.0, RunWatch::body_m};
    ZonesAt zones;
    playback_.hearing().world().zonesAt(here, zones);
    const RunWatch::News what = watch_->follow(playback_.feet(), zones, seconds);
    const GoalRun run = walk()->run;
    const auto send = [this](const SignalId& signal) {
        if (!signal.empty()) {
            playback_.send(signal);
        }
    };
    if (what.checkpoint) {
        send(run.onCheckpoint);
        emit news(tr("checkpoint %1").arg(watch_->checkpointsReached()));
    }
    if (what.putBack) {
        send(run.onFall);
        emit news(watch_->checkpointsReached() > 0 ? tr("fell, back to the checkpoint") : tr("fell, back to the start"));
        playback_.placeFeet(*what.putBack);
    }
    if (what.reached) {
        send(run.onGoal);
        const auto before = best_s(walk_);
        const bool best = !before || watch_->seconds() < *before;
        if (best) {
            QSettings().setValue(keyOf(walk_), watch_->seconds());
        }
        emit news(best ? tr("goal, in %1, the best so far").arg(clock(watch_->seconds()))
                       : tr("goal, in %1").arg(clock(watch_->seconds())));
        emit reached(watch_->seconds(), best);
    }
    emit ticked();
}

QString RunClock::keyOf(const WalkId& walk) const
{
    const QByteArray where = QByteArray::fromStdString(session_.path().string() + '\n' + session_.levelId().text);
    return "bestRuns/" + QString::fromLatin1(where.toHex().right(120)) + '/' + QString::fromStdString(walk.text);
}

std::optional<double> RunClock::best_s(const WalkId& walk) const
{
    const QVariant best = QSettings().value(keyOf(walk));
    return best.isValid() ? std::optional(best.toDouble()) : std::nullopt;
}

void RunClock::forgetBest(const WalkId& walk)
{
    QSettings().remove(keyOf(walk));
    emit changed();
}

QString RunClock::clock(double seconds)
{
    const double tenths = std::floor(seconds * 10.0 + 1e-6) / 10.0;
    const int minutes = static_cast<int>(tenths / 60.0);
    return QString("%1:%2").arg(minutes).arg(tenths - 60.0 * minutes, 4, 'f', 1, QLatin1Char('0'));
}

QString RunClock::words() const
{
    if (!watch_) {
        return {};
    }
    QString words = clock(watch_->seconds());
    if (const auto best = best_s(walk_)) {
        words += tr(" · best %1").arg(clock(*best));
    }
    if (const Walk* known = walk(); known != nullptr && !known->run.checkpoints.empty()) {
        words += tr(" · %1 of %n checkpoints", nullptr, static_cast<int>(known->run.checkpoints.size()))
                     .arg(watch_->checkpointsReached());
    }
    if (watch_->falls() > 0) {
        words += tr(" · %n falls", nullptr, watch_->falls());
    }
    return watch_->over() ? tr("Goal in %1").arg(words) : words;
}

} // namespace stone
