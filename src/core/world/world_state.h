// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/pose.h"
#include "project/edge_rules.h"
#include "project/picker.h"
#include "world/moment.h"
#include "world/stance.h"
#include "world/zone_map.h"

#include <algorithm>
#include <cstdint>
#include <limits>
#include <map>
#include <optional>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

namespace stone
{

/// One start of an emitter: what plays, since when and, where that was decided on the spot, where.
struct Start {
    /// An emitter can play more than its own sound.
    enum class Part : std::uint8_t {
        own,
        answer,  ///< of a sprinkle
        arrival, ///< of a Roamer at a stop
        burst
    };

    std::uint32_t emitter = 0;
    Part part = Part::own;
    std::uint64_t number = 0; ///< counts the emitter's starts of this part
    static constexpr std::uint32_t nothing = UINT32_MAX;
    std::uint32_t playable = nothing;                           ///< see World; nothing: no sound was chosen
    double began_s = 0.0;                                       ///< since the level's start; moves on while it is paused
    double ends_s = std::numeric_limits<double>::infinity();    ///< by itself
    double stopped_s = std::numeric_limits<double>::infinity(); ///< when it began to fade out
    double fade_s = 0.0;                                        ///< how long that takes
    std::optional<double> pausedAt_s{};
    double level_db = 0.0;             ///< by chance, with the level of the file that was picked
    double pitch_st = 0.0;             ///< by chance
    std::optional<std::size_t> file{}; ///< of sounds that play one of their files
    std::optional<Vec3> at{};          ///< its place; none: the emitter's own
    bool follows = false;              ///< `at` counts from the character's feet

    /// Names it among all starts of a level.
    auto key() const { return std::tuple(emitter, part, number); }
    /// The gain of its fading out, 1 to 0.
    double fading(double time_s) const
    {
        return time_s <= stopped_s ? 1.0 : fade_s > 0.0 ? std::max(1.0 - (time_s - stopped_s) / fade_s, 0.0) : 0.0;
    }
    /// What is paused does not run out.
    bool over(double time_s) const { return (!pausedAt_s && time_s >= ends_s) || time_s >= stopped_s + fade_s; }
};

/// A number for a start, for as long as the emitters have theirs: the emitter's in the upper half.
inline std::uint64_t keyOf(const Start& start)
{
    constexpr unsigned numberBits = 30;
    return static_cast<std::uint64_t>(start.emitter) << 32U | static_cast<std::uint64_t>(start.part) << numberBits |
           (start.number & ((1U << numberBits) - 1U));
}
inline std::uint32_t emitterOf(std::uint64_t startKey)
{
    return static_cast<std::uint32_t>(startKey >> 32U);
}
/// Whether it is the first of an emitter's own: the only one of those that simply start with the level.
inline bool isFirst(std::uint64_t startKey)
{
    return (startKey & 0xFFFFFFFFU) == 0;
}
/// The key of the same start of an emitter that has another number now.
inline std::uint64_t renumbered(std::uint64_t startKey, std::uint32_t emitter)
{
    return (startKey & 0xFFFFFFFFU) | static_cast<std::uint64_t>(emitter) << 32U;
}

/// Something that was done to the level from outside.
struct Happening {
    /// Signal, interact or reset; of a game that is followed also jump, land and fall, which nobody guesses from then on.
    Cause cause = Cause::signal;
    SignalId signal{};
    /// Instead of a cause: a game value goes to a number.
    std::optional<std::pair<GameValueId, double>> value{};
    /// Instead of either: somebody starts an emitter from its beginning, or stops it, whatever its rules say. What simply
    /// starts with the level (World::simple) is out of reach.
    struct Hand {
        EmitterId emitter;
        bool starts = true;
    };
    std::optional<Hand> hand{};
    /// Instead of all that: a burst begins; with a count of 0 those that go on end.
    std::optional<Burst> burst{};
    /// Instead of all that, of a game that is followed: where one of its things is now, by its name there.
    std::optional<std::pair<std::string, Pose>> thing{};
    /// How far an opening stands open, 0 to 1.
    std::optional<std::pair<OpeningId, double>> opening{};
    /// The character takes a step on a surface of this name, empty: the one below it. Nobody guesses steps from then on.
    std::optional<std::string> step{};
};

/// Where a thing of a followed game is, on its way from one place that was told to the next.
struct ToldPose {
    Pose from;
    Pose to;
    double since_s = 0.0;
    double takes_s = 0.0;

    Pose at(double time_s) const
    {
        return takes_s > 0.0 ? interpolate(from, to, std::clamp((time_s - since_s) / takes_s, 0.0, 1.0)) : to;
    }
};

/// A burst that goes on.
struct Bursting {
    Burst what;
    std::uint64_t serial = 0; ///< of all bursts so far: whose chance it is
    Vec3 at{0.0};             ///< where the character stood
    int fired = 0;
    double next_s = 0.0;
};

/// What a sprinkle has done so far.
struct SprinkleState {
    bool on = false;       ///< it was started
    double origin_s = 0.0; ///< when
    double near_s = 0.0;   ///< time in which somebody was near enough for it to fall
    std::uint64_t next = 0;
    double next_s = 0.0;         ///< when it starts next, if anybody is near
    std::uint64_t begun = 0;     ///< starts so far
    std::uint64_t skipped = 0;   ///< by chance, or because enough sounded
    std::uint64_t placeless = 0; ///< no place was found that is in the zone and free
    std::optional<Picker> files;
    std::optional<Picker> answers;
    std::optional<Picker> sectors;
    std::vector<bool> heardFiles;             ///< by file of its sound
    std::optional<std::uint64_t> firstRepeat; ///< after how many starts a file came again
};

/// What a pulse has done so far.
struct PulseState {
    bool on = false;       ///< it was started
    double origin_s = 0.0; ///< when
    double phase = 1.0;    ///< how much of the time to the next beat is over; runs on whatever is heard
    std::uint64_t beats = 0;
    std::map<std::uint32_t, Picker> files; ///< by playable

    /// What it measures.
    struct Hazard {
        EdgeKind kind = EdgeKind::drop;
        std::size_t way = 0; ///< in which of the ways that it looks
        Vec3 at{0.0};        ///< the nearest place of the edge
        double distance_m = 0.0;
        double every_s = 0.0; ///< from beat to beat
    };
    std::optional<Hazard> hazard; ///< none: nothing is near
    double lastBeat_s = -1.0;
};

/// Everything that has happened in a level so far: a value, so that a moment can be kept and gone back to.
struct WorldState {
    static constexpr double notBegun = -1.0;
    double time_s = notBegun; ///< since the level's start

    /// A game value, or a door, on its way.
    struct Ramp {
        double from = 0.0;
        double to = 0.0;
        double since_s = 0.0;
        double takes_s = 0.0;

        double at(double time_s) const
        {
            const double t = takes_s > 0.0 ? std::clamp((time_s - since_s) / takes_s, 0.0, 1.0) : 1.0;
            return from + (to - from) * t;
        }
    };
    std::vector<Ramp> values;            ///< by game value of the project
    std::map<std::uint32_t, Ramp> doors; ///< openings of the level that a signal has moved, and how far they stand open

    std::map<std::string, ToldPose> things;  ///< of a game that is followed, by name
    std::map<std::uint32_t, Ramp> toldDoors; ///< openings of which it says how far they stand open, whatever else moves them
    bool actsTold = false;                   ///< it says when the character jumps, lands and falls
    bool stepsTold = false;                  ///< and when it takes a step

    std::vector<bool> gazing; ///< by gaze of the project: a signal has set it going

    ZonesAt zones; ///< of the character
    /// Emitters that wait for the character to come near or to go, by from how near on, and whether it is.
    std::map<std::pair<std::uint32_t, double>, bool> near;
    std::vector<Start> starts; ///< that sound, of emitters that are not simply started with the level
    std::map<std::uint32_t, SprinkleState> sprinkles;
    std::map<std::uint32_t, PulseState> pulses;
    /// Of emitters with start rules.
    struct Ruled {
        std::uint64_t count = 0; ///< starts so far
        double last_s = -std::numeric_limits<double>::infinity();
        bool spent = false; ///< plays once, and has
        std::optional<Picker> files;
    };
    std::map<std::uint32_t, Ruled> ruled;
    std::vector<Bursting> bursts;
    std::uint64_t burstsBegun = 0;
    std::uint64_t burstStarts = 0;

    /// The character's motion.
    Pose feet;
    Stance stance; ///< and from where it is looked at and listened to
    Listener listener;
    bool airborne = false;
    double pace_m_s = 0.0; ///< at which the character walks, over the last moments: hands move it in small jerks
    double sinceStep_m = 0.0;
    std::uint64_t steps = 0;
    std::optional<std::uint32_t> surface;      ///< material below the feet; none: no floor
    std::map<std::uint32_t, Picker> stepFiles; ///< by playable
};

} // namespace stone
