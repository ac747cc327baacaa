// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QObject>
#include <QSet>

class QKeyEvent;

namespace stone
{

/// Turns keys into walking: W A S D walk, Q E turn, Shift faster, everywhere but where text is typed; the arrow keys
/// too (up and down walk, left and right turn) while the Plan has the focus; Page Up and Down in flight.
class WalkKeys : public QObject
{
    Q_OBJECT

public:
    WalkKeys(Playback& playback, QWidget& window, QWidget& plan);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    bool takes(const QKeyEvent& event) const;
    void update();

    Playback& playback_;
    QWidget& window_;
    QWidget& plan_;
    QSet<int> held_;
    bool shift_ = false;
};

} // namespace stone
