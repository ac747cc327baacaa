// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/late_network.h"
#include "hearing/model.h"

#include <array>
#include <memory>
#include <vector>

namespace stone
{

/// A design of a network with what it was made for. Immutable.
struct RoomNetwork {
    /// What decides it: rooms that ask for the same share one.
    struct Asked {
        std::array<double, LateNetwork::bands> rt60_s{}; ///< by octave band from 63 Hz
        double volume_m3 = 0.0;
        double preDelay_s = 0.0;
        double rate = 0.0; ///< frames per second
        auto operator<=>(const Asked&) const = default;
    };

    Asked asked;
    LateNetwork::Design design;
};

using SharedNetwork = std::shared_ptr<const RoomNetwork>;

/// What the networks of a level's rooms are to be, by room; null for those that have a response. Takes some 0.4 ms for each
/// that is not among `before` (designs of the scene before an edit, may be empty), which is why scenes are made with them and
/// the control thread only takes them. Any thread.
std::vector<SharedNetwork> networksOf(const HearingModel& model, int rate, const std::vector<SharedNetwork>& before);

} // namespace stone
