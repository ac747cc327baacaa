#pragma once

#include "app/forms/emitter_form.h"

#include <QLabel>
#include <QSlider>

namespace stone
{

/// Where a Roamer goes, and a slider that goes its round ahead of time.
class RoamerForm : public EmitterForm
{
    Q_OBJECT

public:
    RoamerForm(Session& session, Playback& playback);
    void refresh() override;

signals:
    /// Its round is looked at: where it is so long after setting off; below 0: no more.
    void previewed(double time_s);
    /// Stops are to be drawn on the Plan.
    void drawWanted();

private:
    QLabel* words_;
    QSlider* round_;
};

} // namespace stone
