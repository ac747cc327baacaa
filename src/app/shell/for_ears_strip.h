// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QLabel>
#include <QWidget>

namespace stone
{

/// Says what is heard otherwise than the project has it: solo, what is muted for these ears, another falloff, filters, gaze or
/// reverb left out. Hidden while nothing is.
class ForEarsStrip : public QWidget
{
    Q_OBJECT

public:
    ForEarsStrip(Session& session, Playback& playback, QWidget* parent = nullptr);

private:
    void refresh();

    Session& session_;
    Playback& playback_;
    QLabel* words_;
    int limited_db_ = 0; ///< by the limiter, 0 or below
};

} // namespace stone
