// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/blind/run_clock.h"

#include <QFrame>
#include <QLabel>

namespace stone
{

/// The clock of a run, over the sheet on which one walks.
class RunBanner : public QFrame
{
    Q_OBJECT

public:
    RunBanner(RunClock& clock, QWidget* sheet);

    /// Not shown while something else shows the time.
    void hideFor(bool something);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void refresh();

    RunClock& clock_;
    QLabel* time_;
    bool elsewhere_ = false;
};

} // namespace stone
