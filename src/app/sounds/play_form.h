// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lanes/lane_stack.h"
#include "app/sounds/sound_form.h"

#include <QLabel>

namespace stone
{

/// How a sound is played: what it makes of its files, and with which level, pitch, filters and fades.
class PlayForm : public SoundForm
{
    Q_OBJECT

public:
    explicit PlayForm(Session& session, QWidget* parent = nullptr);
    void refresh() override;

private:
    LaneStack::Source drawnDrift();
    QWidget* makeRow();
    QWidget* sequenceRows();
    QWidget* soundRows();
    QWidget* fileRows();
    void showRepeat(const Sound& shown);

    QCheckBox* apart_ = nullptr;
    QWidget* order_ = nullptr;
    QWidget* gaps_ = nullptr;
    QWidget* gapChance_ = nullptr;
    QWidget* crossFade_ = nullptr;
    QWidget* slices_ = nullptr;
    QWidget* fadeOut_ = nullptr;
    QLabel* repeats_;
    QLabel* fileHead_;
    LaneStack* drawn_;
    QWidget* loopPoints_ = nullptr;
    QWidget* drifts_ = nullptr;
    QWidget* ofFile_ = nullptr;
};

} // namespace stone
