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

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void refresh();

    RunClock& clock_;
    QLabel* time_;
};

} // namespace stone
