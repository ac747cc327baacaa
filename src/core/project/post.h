// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"
#include "project/id.h"
#include "project/lane.h"

#include <string>

/// Expectations of what is heard, at spots, along walks and in zones. Part of the document.
namespace stone
{

/// A line between heard and not heard that an ear in a game draws; softer things may still be mixed.
constexpr double heardFrom_db = -60.0;
/// As a bound: none.
constexpr double noLeast_db = -200.0;
constexpr double noMost_db = 100.0;

/// One expectation. What it says of levels is meant at the ears, as the Ledger's last line has it; of several starts of an
/// emitter together.
struct Post {
    enum class Where {
        spot, ///< the character stands there, the ears at its head; what sprinkles and Roamers give is their mean
        walk, ///< at every moment of it, or of a stretch of it
        zone, ///< at places all over it, one about every metre and a half
        level ///< along every walk of the level
    };
    enum class Expects {
        level,    ///< not softer than the least, not louder than the most
        above,    ///< by so much above another, or above all others together: not less than the least, nor more than the most
        heard,    ///< heard at all: `heardFrom_db` or more
        unheard,  ///< not heard: less than that
        voices,   ///< no more of them than `count` sound at a time
        jumps,    ///< the level of no copy jumps by more than the most within a tenth of a second
        loudness, ///< of all that is heard, LUFS; from the least to the most. Not at spots and in zones
        by,       ///< heard for the first time no later than `within_s` after the beginning
        every, ///< from one time that it is heard to the next, and from the beginning and to the end, no longer than `within_s`
        masked ///< of what matters nothing is masked for longer than `within_s`. Not at spots and in zones
    };

    PostId id;
    std::string name; ///< in words: what it is for
    Where where = Where::spot;
    Vec3 at{0.0}; ///< of a spot: the character's feet
    double heading_deg = 0.0;
    WalkId walk;
    double from_s = 0.0; ///< of a walk: the stretch; `to_s` 0: its end
    double to_s = 0.0;
    ZoneId zone;
    Expects expects = Expects::level;
    EmitterId emitter; ///< whose; empty: of all together
    EmitterId other;   ///< of `above`; empty: of all others together
    double least_db = noLeast_db;
    double most_db = noMost_db;
    double tolerance_db = 0.0; ///< by which a bound may be missed; >= 0
    int count = 24;
    double within_s = 10.0;
    std::string reason; ///< why, for whoever breaks it
    bool on = true;
    Extras extras{};

    bool operator==(const Post&) const = default;
};

} // namespace stone
