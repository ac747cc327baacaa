// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/control.h"
#include "engine/mixer.h"
#include "engine/steps.h"

#include <optional>
#include <vector>

namespace stone
{

/// Scenes that are not played any more, until nothing of them sounds: the mixer reads their buffers while their voices fade.
/// Belongs to the control thread.
class LeavingScenes
{
public:
    /// Takes those that the deciding side has done with, and lets go those of which the mixer plays nothing any more.
    void collect(Control& control, const Mixer& mixer)
    {
        for (Control::Retired& retired : control.takeRetired()) {
            leaving_.push_back({std::move(retired), {}});
        }
        const std::uint64_t accepted = mixer.accepted();
        const std::uint64_t now = mixer.step();
        std::erase_if(leaving_, [&](Leaving& leaving) {
            if (!leaving.freeAt && accepted >= leaving.retired.lastStep) {
                leaving.freeAt = now + fadeSteps(control.rate());
            }
            return leaving.freeAt && now > *leaving.freeAt;
        });
    }

private:
    struct Leaving {
        Control::Retired retired;
        std::optional<std::uint64_t> freeAt; ///< once a plan without it was taken up
    };
    std::vector<Leaving> leaving_;
};

} // namespace stone
