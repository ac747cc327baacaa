// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/blind/announcer.h"
#include "app/blind/blind_walk.h"
#include "app/blind/run_clock.h"

#include <QCheckBox>
#include <QWidget>

namespace stone
{

/// What is shown on a blind walk instead of the level: a compass and, on a run, the clock. Both can be hidden, or spoken.
class BlindCover : public QWidget
{
    Q_OBJECT

public:
    BlindCover(BlindWalk& walk, RunClock& clock, Playback& playback, QWidget* parent = nullptr);

    const Announcer& announcer() const { return announcer_; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    QCheckBox* option(const char* name, const QString& label, const QString& help, bool usually);
    void paintCompass(QPainter& painter, const QPointF& centre, double radius) const;
    void speak();

    BlindWalk& walk_;
    RunClock& clock_;
    Playback& playback_;
    Announcer announcer_;
    QCheckBox* compass_;
    QCheckBox* time_;
    QCheckBox* speaks_;
    int saidWay_ = -1; ///< eighth of the compass
    int turnedTo_ = -1;
    QElapsedTimer sinceTurned_;
    int saidTime_ = 0; ///< so many times
};

} // namespace stone
