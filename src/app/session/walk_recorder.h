// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/pose.h"
#include "project/document.h"

#include <vector>

namespace stone
{

/// Records where the character's feet go, and what is done to the level meanwhile, as a walk that replays it: to half a
/// centimetre and half a degree at every moment. Window thread only.
class WalkRecorder
{
public:
    bool recording() const { return !moments_.empty(); }
    /// How long it has been recording, seconds.
    double seconds() const { return moments_.empty() ? 0.0 : moments_.back().t_s; }

    void begin(const Pose& feet);
    /// Time passes. What is done before the first call, or while nothing is recorded, is not kept.
    void add(double seconds, const Pose& feet);
    /// At the moment up to which it was recorded.
    void addEvent(WalkEvent event);
    /// The walk, without id and name. Empty when nothing was recorded.
    Walk end();

private:
    std::vector<WalkPoint> moments_;
    std::vector<WalkEvent> events_;
};

} // namespace stone
