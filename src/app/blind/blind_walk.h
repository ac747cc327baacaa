// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QElapsedTimer>
#include <QObject>

#include <vector>

namespace stone
{

/// A walk without looking: where it went and what was run into. The last one is kept until the next begins or another level
/// is shown. Window thread only.
class BlindWalk : public QObject
{
    Q_OBJECT

public:
    BlindWalk(Session& session, Playback& playback, QObject* parent = nullptr);

    bool on() const { return on_; }
    void begin();
    void end();

    const std::vector<Vec3>& path() const { return path_; }
    /// Where the character ran into something.
    const std::vector<Vec3>& bumps() const { return bumps_; }
    int falls() const { return falls_; }
    double metres() const;
    double seconds() const;
    /// "31 m in 42 s, 2 bumps, no fall"
    QString words() const;

signals:
    /// It began or ended.
    void changed();

private:
    void follow();
    void forget();

    Session& session_;
    Playback& playback_;
    bool on_ = false;
    LevelId level_;
    std::vector<Vec3> path_;
    std::vector<Vec3> bumps_;
    int bumpsSeen_ = 0;
    int falls_ = 0;
    int fallsBefore_ = 0;
    QElapsedTimer clock_;
    double seconds_ = 0.0;
};

} // namespace stone
