// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lanes/lane_stack.h"
#include "app/session/playback.h"

namespace stone
{

/// The fades of the selected zone: lanes over the depth in it, for what belongs to its parents.
class ZoneFades : public QWidget
{
    Q_OBJECT

public:
    ZoneFades(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh();
    void refreshEars() { lanes_->refreshPlace(); }

private:
    LaneStack::Source source();

    Session& session_;
    Playback& playback_;
    LaneStack* lanes_;
};

} // namespace stone
