// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/lane.h"

/// How many copies may sound at once, and who gives way when there are more. Part of the document.
namespace stone
{

/// Which of the copies gives way. Priority comes first: only those of the lowest grade are looked at.
enum class GivesWay {
    quietest, ///< at the ears
    oldest,   ///< that started first
    farthest, ///< from the ears
    newest    ///< that started last: what sounds is left alone
};

/// A limit on copies: of a sound, over all emitters that play it; of a family's members; of everything in a level. One-shots
/// that give way are gone; what goes on without an end falls asleep and comes back where it would be by then.
struct Limit {
    int atOnce = 0; ///< most that sound together; 0: no limit
    GivesWay givesWay = GivesWay::quietest;
    bool eachEmitter = false; ///< counts the copies of each emitter by themselves
    double holdOff_s = 0.0;   ///< shortest time between the starts of two one-shots that are heard; >= 0
    Extras extras{};

    /// Whether it ever turns anybody away.
    bool any() const { return atOnce > 0 || holdOff_s > 0.0; }
    bool operator==(const Limit&) const = default;
};

} // namespace stone
