// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"
#include "project/lane.h"

#include <string>
#include <vector>

/// What starts, stops and steers things while the level plays. Part of the document.
namespace stone
{

/// A named number that the game, a hand or a walk changes while playing, and that lanes may follow.
struct GameValue {
    GameValueId id;
    std::string name;
    double least = 0.0;
    double most = 1.0;
    double rest = 0.0;        ///< what it is until somebody changes it
    double smoothing_s = 0.2; ///< a change takes so long, in a straight line; >= 0
    SignalId mostOn{};        ///< the signal at which it goes to its most; empty: none
    SignalId restOn{};        ///< and back to its rest; the same one for both goes there and back in turn
    Extras extras{};

    bool operator==(const GameValue&) const = default;
};

/// A named message.
struct Signal {
    SignalId id;
    std::string name;
    Extras extras{};

    bool operator==(const Signal&) const = default;
};

/// What can happen in a level.
enum class Cause {
    level,    ///< the level starts
    enter,    ///< the character comes into a zone, or starts in it
    leave,    ///< the character leaves a zone
    signal,   ///< a signal is sent
    interact, ///< the character does something within reach of the emitter
    jump,     ///< the character leaves the ground upwards
    land,     ///< the character comes down on the ground
    fall,     ///< the ground is gone from under the character
    reset,    ///< the character is put back
    near,     ///< the character comes as near to the emitter as that, or starts there
    far       ///< and goes away again
};

struct Trigger {
    Cause cause = Cause::level;
    ZoneId zone;           ///< of enter and leave
    SignalId signal;       ///< of signal
    double within_m = 2.0; ///< of interact, near and far: in the plan, from the character's feet; > 0

    bool operator==(const Trigger&) const = default;
};

enum class Comparison { atLeast, atMost };

/// Something that must be so for a start to count.
struct Condition {
    GameValueId value;
    Comparison comparison = Comparison::atLeast;
    double number = 0.5;

    bool operator==(const Condition&) const = default;
};

/// What one more start does while the sound still plays.
enum class SecondStart { restart, pauseAndResume, stop, ignore, another };

/// Whether a sound goes round and round.
enum class Rounds { asTheSound, endless, once };

/// When an emitter starts and stops.
struct Starting {
    std::vector<Trigger> starts{Trigger{}};
    std::vector<Trigger> stops;
    std::vector<Trigger> rearms;       ///< of what starts once only: lets it start once more
    std::vector<Condition> conditions; ///< all must hold when it would start
    SecondStart second = SecondStart::restart;
    bool once = false;      ///< only the first start counts, until it is re-armed
    double holdOff_s = 0.0; ///< shortest time between two starts; >= 0
    double fadeOut_s = 0.3; ///< when it is stopped; >= 0
    Rounds rounds = Rounds::asTheSound;
    Extras extras{};

    bool operator==(const Starting&) const = default;
};

/// Something is set off again and again, to hear what becomes of it when it comes in numbers.
struct Burst {
    enum class Of {
        emitter, ///< its sound starts
        signal,  ///< it is sent
        use      ///< the character uses what is near
    };
    enum class Where {
        own,   ///< at the emitter
        here,  ///< a metre above where the character stands as it begins
        around ///< by chance 2 to 8 m round that
    };

    Of of = Of::emitter;
    EmitterId emitter{};
    bool allOfItsSound = false; ///< all emitters that have the same sound take turns
    SignalId signal{};
    Where where = Where::own;
    int count = 20;       ///< 1 to 1000
    double every_s = 0.1; ///< from one to the next, in the mean; 0.001 to 60
    bool irregular = false;

    bool operator==(const Burst&) const = default;
};

/// Something that happens at a moment of a walk, so that a render contains it.
struct WalkEvent {
    enum class Kind { signal, value, interact, reset, burst };

    double t_s = 0.0;
    Kind kind = Kind::signal;
    SignalId signal;
    GameValueId value;
    double number = 0.0; ///< that the value goes to
    Burst burst{};
    Extras extras{};

    bool operator==(const WalkEvent&) const = default;
};

} // namespace stone
