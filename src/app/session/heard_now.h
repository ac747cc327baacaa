// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/live.h"
#include "engine/scene.h"

#include <memory>
#include <utility>
#include <vector>

namespace stone
{

/// What is heard of a scene at a moment: what the engine heard, where that is of the same things, and the rest worked out, once
/// for each moment.
class HeardNow
{
public:
    /// The engine's step if it can be shown with a scene: the same things under the same numbers, though one of them may have
    /// been changed since. Else null.
    std::shared_ptr<const HeardStep> fitting(const std::shared_ptr<const HeardStep>& step,
                                             const std::shared_ptr<const Scene>& scene);

    /// Turns to a moment of a scene. `step`: a fitting one, or null.
    void look(const std::shared_ptr<const Scene>& scene, const std::shared_ptr<const HeardStep>& step, const Moment& now);

    /// All emitters of the level, in reach or not: those that the step does not know are worked out when this is first asked.
    const std::vector<Heard>& heard();
    /// One of these, without the others where the step knows it. `index`: below heard().size().
    const Heard& heardOf(std::uint32_t index);
    /// What is in reach alone, a Heard for each start.
    const std::vector<Heard>& inReach();
    const std::vector<RoomHeard>& rooms();

private:
    std::shared_ptr<const Scene> scene_;
    std::shared_ptr<const HeardStep> step_; ///< from which it was taken; null: all of it was worked out
    Moment moment_;
    std::vector<Heard> heard_;
    HearScratch scratch_;
    bool all_ = false; ///< heard_ is of this moment
    std::vector<Heard> inReach_;
    HearScratch reachScratch_;
    bool reached_ = false; ///< inReach_ is of the same moment
    /// The scenes last compared, and whether their things bear the same numbers.
    std::pair<std::weak_ptr<const Scene>, std::weak_ptr<const Scene>> compared_;
    bool sameNumbers_ = false;
};

} // namespace stone
