// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"

namespace stone
{

/// What happens on a walk, in words: "Wind to 3", "20 of Moths every 0.1 s".
QString eventText(const Project& project, const Level& level, const WalkEvent& event);

/// What a burst is, in words.
QString burstText(const Project& project, const Level& level, const Burst& burst);

/// Puts something on a walk of the level that is shown, at a time to a tenth of a second: one step of the history. Does nothing
/// when there is no such walk.
void putOnWalk(Session& session, const WalkId& walk, WalkEvent event, double time_s);

/// Changes what happens on a walk: one step of the history.
void changeEvents(Session& session, const WalkId& walk, const QString& what, const QString& gesture,
                  const std::function<void(std::vector<WalkEvent>&)>& how);

} // namespace stone
