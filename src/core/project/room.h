// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/shape.h"
#include "project/id.h"
#include "project/lane.h"
#include "project/material.h"

#include <string>
#include <vector>

/// Spaces with a sound of their own, and what joins them. Part of the document.
namespace stone
{

/// What a room's late field is made of.
enum class Tail {
    network,  ///< worked out from its decay
    response, ///< an impulse response
    none,     ///< there is none, as in a yard: walls throw single echoes back
};

/// How a room answers.
struct Reverb {
    bool on = true;
    Tail tail = Tail::network;
    std::string response; ///< the file with the impulse response; its channels come evenly from round the ears
    /// With a response only how much the room absorbs, and so how loudly it answers.
    BandValues rt60_s{0.9, 0.9, 0.9, 0.9, 0.85, 0.8, 0.7, 0.5}; ///< by octave band; 0.05 to 30
    double preDelay_ms = 15.0;                                  ///< until the late field begins; 0 to 250
    double early_db = 0.0; ///< of single reflections, over what its walls give by themselves; -96 (none) to 24
    /// Over what the room's volume and RT60 give by themselves. A level of silence or less switches the late field off.
    double late_db = 0.0; ///< -96 to 24
    double width = 1.0;   ///< 0: the late field comes from ahead, 1: from all round
    Extras extras{};

    bool operator==(const Reverb&) const = default;
};

/// What lies in no room.
struct Outside {
    double echoes_db = -96.0; ///< of the level's walls, over what they give by themselves; -96 (none) to 24
    Extras extras{};

    bool operator==(const Outside&) const = default;
};

/// A space. Where rooms lie in each other the smallest counts; what is in none is outside.
struct Room {
    RoomId id;
    std::string name;
    Vec3 at{0.0};
    double heading_deg = 0.0;
    Shape shape = Prism{};
    Reverb reverb;
    Extras extras{};

    bool operator==(const Room&) const = default;
};

/// A hole in the wall between two rooms, or between a room and the outside: an upright rectangle over a line on the Plan. It
/// joins what lies on its two sides.
struct Opening {
    OpeningId id;
    std::string name;
    Vec2 from{-0.5, 0.0}; ///< the ends of the line
    Vec2 to{0.5, 0.0};
    double sill_m = 0.0;  ///< height of its lower edge, as in the level
    double head_m = 2.1;  ///< and of its upper edge; > sill
    double open = 1.0;    ///< share of it that stands open, 0 to 1
    GameValueId follows;  ///< a game value that the share follows instead, 0 to 1; empty: none
    SignalId opensOn;     ///< at which it swings wide open; empty: none
    SignalId closesOn;    ///< and shut
    double swing_s = 0.8; ///< that takes; >= 0
    MaterialId leaf;      ///< of the closed part; empty: a wooden door
    Extras extras{};

    bool operator==(const Opening&) const = default;
};

/// The usual reverbs, by kind of space, to begin from.
struct ReverbPoint {
    const char* name;
    const char* reason; ///< one line: what it is like
    Reverb reverb;
};
const std::vector<ReverbPoint>& reverbPoints();

} // namespace stone
