// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "engine/cost.h"
#include "geometry/pose.h"
#include "hearing/give_way.h"
#include "hearing/terms.h"
#include "project/document.h"

#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <vector>

/// What a run through a level was like: who was heard, how loudly and why, moment by moment, as it is kept in a file.
namespace stone
{

/// A take's moments are so far apart at least.
constexpr double takeStep_s = 0.05;

/// What is true of a whole take.
struct TakeInfo {
    std::string project{};
    std::string level{}; ///< its name
    std::string levelId{};
    std::string walk{}; ///< empty: walked freely
    std::string walkId{};
    std::string layout{};
    std::uint64_t seed = 0;
    int rate = 48'000; ///< of its sound
    int channels = 0;  ///< likewise; 0: it has none
    std::string note{};
    std::string recorded{}; ///< UTC, "2026-05-04 21:07:00"
    std::string machine{};  ///< on which its costs were measured
    double seconds = 0.0;   ///< how long it is
    double integrated_lufs = -std::numeric_limits<double>::infinity();
    double truePeak_db = -std::numeric_limits<double>::infinity();
};

struct TakeEmitter {
    EmitterId id;
    std::string name;
    EmitterKind kind = EmitterKind::point;
    FamilyId family;
    std::string familyName;
};

/// One start of an emitter: a copy of a sound.
struct TakeCopy {
    std::uint32_t emitter = 0; ///< into the take's
    std::uint8_t part = 0;     ///< Start::Part
    std::uint64_t number = 0;  ///< of the start
    SoundId sound;
    std::string soundName;
    double began_s = 0.0;
};

/// A copy at a moment.
struct TakenCopy {
    std::uint32_t copy = 0; ///< into the take's
    bool audible = false;
    double level_db = silentTake_db;  ///< at the ears; to 0.01 dB
    Vec3 at{0.0};                     ///< the place it sounds from; to a centimetre
    Vec3 direction{0.0};              ///< see Heard::direction; to a hundredth
    Terms terms;                      ///< to 0.01 dB each
    std::optional<GaveWay> gaveWay{}; ///< `to`: into the take's emitters

    /// What stands for minus infinity.
    static constexpr double silentTake_db = -std::numeric_limits<double>::infinity();
};

struct TakenRoom {
    std::uint32_t room = 0; ///< into the take's
    double level_db = 0.0;
};

/// A moment of a take.
struct TakenMoment {
    double t_s = 0.0;     ///< since the take began, in time of sound; with it all others but the next two
    double level_s = 0.0; ///< the level's time, which may be held
    double walk_s = -1.0; ///< the walk's; below 0: none is followed
    Pose feet;
    Pose ears;
    std::uint32_t voices = 0;
    std::uint32_t gaveWay = 0;
    double momentary_lufs = -std::numeric_limits<double>::infinity();
    double shortTerm_lufs = -std::numeric_limits<double>::infinity();
    double integrated_lufs = -std::numeric_limits<double>::infinity();
    double peak_db = -std::numeric_limits<double>::infinity(); ///< highest since the moment before
    std::vector<double> values;                                ///< by the take's game values
    std::vector<TakenRoom> rooms;
    std::vector<TakenCopy> copies; ///< in the order of their numbers
};

/// Something that happened, with its own time.
struct TakeEvent {
    enum class Kind { signal, value, use, reset, burst, bump, fall, edit };

    double t_s = 0.0;
    Kind kind = Kind::signal;
    std::string name;                      ///< of the signal or the value; an edit in the history's words
    double number = 0.0;                   ///< that a value went to
    std::optional<std::uint32_t> document; ///< of an edit: the document from then on, into the take's
};

/// A while in which somebody who matters could not be made out among all else.
struct TakenMasking {
    double from_s = 0.0;
    double to_s = 0.0;
    std::uint32_t copy = 0; ///< into the take's
    std::uint32_t by = 0;   ///< the copy that masked it most
    double under_db = 0.0;  ///< in the mean it lay so far below the others in the octave band where it lay least below
};

/// What half a second has cost.
struct TakenCost {
    double t_s = 0.0; ///< its end
    Costs costs;
    double memory_bytes = 0.0; ///< of all sounds
};

/// How loud each emitter was over a stretch of time, coarser than the moments: what an overview is drawn from.
struct TakeBin {
    double t_s = 0.0; ///< its beginning
    struct Of {
        std::uint32_t emitter = 0;
        float mean_db = -200.0F; ///< by power, all its copies together
        float most_db = -200.0F;
    };
    std::vector<Of> emitters;
    float momentary_lufs = -200.0F; ///< loudest
    std::uint32_t voices = 0;       ///< most
    std::uint32_t gaveWay = 0;      ///< most
};
constexpr double takeBin_s = 0.5;

} // namespace stone
