// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"
#include "project/lane.h"

#include <string>
#include <vector>

namespace stone
{

/// Weighting by where the player looks: lanes for level, nearness and priority over the angle off the gaze.
struct Gaze {
    /// When it counts.
    enum class When {
        always,
        signal, ///< from one signal until another
        zone    ///< while one is in a zone
    };

    GazeId id;
    std::string name;
    bool on = true;
    bool horizontal = true;  ///< the angle is taken on the horizon; else in space
    std::vector<Lane> lanes; ///< over the gaze; each of level, nearness and priority at most once
    double rise_s = 0.25;    ///< in which what is looked at comes up, near enough; >= 0
    double fall_s = 0.8;     ///< in which what is looked away from goes back; >= 0
    When when = When::always;
    SignalId from;
    SignalId until;
    ZoneId zone;
    std::vector<FamilyId> families; ///< for whom; with `emitters` empty: for everything
    std::vector<EmitterId> emitters;
    std::vector<EmitterId> exempt; ///< and for whom never
    std::vector<FamilyId> exemptFamilies;
    Extras extras{};

    bool operator==(const Gaze&) const = default;
};

} // namespace stone
