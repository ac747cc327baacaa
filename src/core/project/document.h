// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/pose.h"
#include "geometry/upright_sheet.h"
#include "project/ambience.h"
#include "project/edge_rules.h"
#include "project/gaze.h"
#include "project/goal_run.h"
#include "project/lane.h"
#include "project/list.h"
#include "project/material.h"
#include "project/plant.h"
#include "project/post.h"
#include "project/rig.h"
#include "project/room.h"
#include "project/sound.h"
#include "project/sound_target.h"
#include "project/starting.h"

#include <array>
#include <bitset>
#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

/// The document: plain values, compared by value, cheap to copy. It knows nothing of files, threads, widgets or the
/// engine. Lengths in metres, times in seconds, levels in decibels (0 dB = the file's own level at the emitter).
namespace stone
{

/// A named set of lanes over distance. Emitters share it by id or carry one of their own.
struct Falloff {
    FalloffId id;
    std::string name;
    std::vector<Lane> lanes{Lane{}}; ///< the first is the level; at most one lane for each property
    Extras extras{};

    bool operator==(const Falloff&) const = default;
};

enum class EmitterKind {
    point,    ///< sits at a place
    bed,      ///< surrounds the player in its zone, or everywhere when it has none
    area,     ///< fills a shape
    sprinkle, ///< irregular one-shots at places of chance
    roamer,   ///< moves along stops
    steps,    ///< of the walking character
    pulse,    ///< a beat that quickens as an edge of the floor gets nearer
};
constexpr std::size_t emitterKindCount = 7;

/// Whether it gives one-shots that have no place before they start.
constexpr bool givesShots(EmitterKind kind)
{
    return kind == EmitterKind::sprinkle || kind == EmitterKind::steps || kind == EmitterKind::pulse;
}
/// Whether what it gives lies with the character and not at a place of its own.
constexpr bool isOfCharacter(EmitterKind kind)
{
    return kind == EmitterKind::steps || kind == EmitterKind::pulse;
}

/// The kind as the document and the command line write it.
const char* wordOf(EmitterKind kind);

/// Who is mixed first when there are more sounds than voices; within a grade, the louder. Vital ones never give way.
enum class Priority { background, ordinary, notable, vital };

/// What a Point does with the channels of its file. Until somebody decides, several channels are folded as `mid`, and a
/// finding says so.
enum class ChannelUse {
    undecided,
    mid,        ///< mean of all channels
    equalPower, ///< sum over the square root of their number: keeps the power of unlike channels
    left,       ///< the first channel alone
    right,      ///< the second channel alone
    image,      ///< each channel from a direction of its own
};

/// The loudspeakers that a sound can have to itself, by the names that layouts give them.
constexpr std::array<const char*, 14> loudspeakers{"L",   "R",   "C",   "LFE", "Ls",  "Rs",  "Lss",
                                                   "Rss", "Lrs", "Rrs", "Ltf", "Rtf", "Ltr", "Rtr"};

/// From where and how wide a sound comes, and how it takes part in the world.
struct Placement {
    double inWorld = 1.0;         ///< 1: from its place in the world; 0: fixed in the ears; between: a mix
    double earsAzimuth_deg = 0.0; ///< the part fixed in the ears: positive to the right, 0 ahead
    double earsElevation_deg = 0.0;
    std::string earsSpeaker{}; ///< one of `loudspeakers` instead of the direction; empty: none
    double spread_deg = 0.0;   ///< width from which it comes: 0 a point, 360 all round
    double nearRange_m = 0.5;  ///< within it the sound opens up until it surrounds; >= 0
    ChannelUse channels = ChannelUse::undecided;
    double image_deg = 60.0;    ///< between the outermost channels of an image, as seen from the ears
    bool imageTurns = false;    ///< the image turns with the emitter instead of facing the ears
    bool roomsAnswer = false;   ///< a bed goes into the reverb of the room that it is heard in
    bool imageInWorld = false;  ///< a bed's image stays in the world instead of turning with the head
    double doppler = 0.0;       ///< 0 none, 1 as in nature
    double dopplerLimit_st = 6; ///< most change of pitch, semitones; > 0
    bool air = false;           ///< the air takes the treble away over distance
    Extras extras{};

    bool operator==(const Placement&) const = default;
};

/// What can be set on an emitter and handed on by a pattern.
struct EmitterSettings {
    EmitterKind kind = EmitterKind::point;
    SoundId sound;
    std::variant<FalloffId, Falloff> falloff; ///< shared by id, or its own; an empty id means the default formula
    double level_db = 0.0;
    double pitch_st = 0.0;     ///< semitones
    double startAfter_s = 0.0; ///< time from what starts it until it begins
    Starting starting;
    FamilyId family;                  ///< empty: none
    std::optional<Priority> priority; ///< none: that of its family, else ordinary
    std::vector<Lane> lanes;          ///< over anything but distance
    Placement placement;
    ZoneId zone; ///< to which it belongs; empty: none
    Area area;   ///< this and the next three: of the kind of that name
    Sprinkling sprinkling;
    Roaming roaming;
    Stepping stepping;
    Pulsing pulsing;
    Screening screening;

    bool operator==(const EmitterSettings&) const = default;
};

/// The parts of EmitterSettings that a copy of a pattern can have of its own.
enum class Setting : std::uint8_t {
    kind,
    sound,
    falloff,
    level,
    pitch,
    start,
    family,
    priority,
    lanes,
    placement,
    zone,
    area,
    sprinkling,
    roaming,
    stepping,
    pulsing,
    screening
};
constexpr std::size_t settingCount = 17;
using SettingSet = std::bitset<settingCount>;

struct Emitter : EmitterSettings {
    EmitterId id;
    std::string name;
    Vec3 at{0.0};             ///< of a point; a bed does not use it
    double heading_deg = 0.0; ///< where its front faces, as for a Pose
    double tilt_deg = 0.0;    ///< of the front, positive upwards
    bool muted = false;
    PatternId pattern; ///< empty: none. Settings that are not its own are those of the pattern.
    SettingSet own;    ///< by Setting; without meaning when there is no pattern
    Riding riding;
    Extras extras{};

    bool operator==(const Emitter&) const = default;
};

/// All sounds of a kind: what is set here holds for all members, those added later included.
struct Family {
    FamilyId id;
    std::string name;
    double level_db = 0.0;
    double lowPass_hz = 20'000.0; ///< 20 kHz: open
    double highPass_hz = 20.0;    ///< 20 Hz: open
    double reachFactor = 1.0;     ///< distances of its members' falloffs times this; > 0
    bool muted = false;
    std::optional<Priority> priority;
    /// Over game values: level, filters, and nearness as a factor on the distances of all its members.
    std::vector<Lane> lanes{};
    /// By which all its members are heard instead of their own while `otherWhen` holds; empty: never.
    FalloffId otherFalloff{};
    Condition otherWhen{};
    Limit limit{}; ///< on the copies of all its members
    Extras extras{};

    bool operator==(const Family&) const = default;
};

/// A set-up emitter that others are copies of.
struct Pattern {
    PatternId id;
    std::string name;
    EmitterSettings settings;
    Extras extras{};

    bool operator==(const Pattern&) const = default;
};

/// One moment of a walk. Where the heading is left out, the walker faces along the way.
struct WalkPoint {
    double t_s = 0.0;
    Vec3 at{0.0}; ///< the walker's feet
    std::optional<double> heading_deg;
    double pitch_deg = 0.0;
    Extras extras{};

    bool operator==(const WalkPoint&) const = default;
};

struct Walk {
    WalkId id;
    std::string name;
    std::vector<WalkPoint> points; ///< in order of time
    std::vector<WalkEvent> events; ///< in order of time
    GoalRun run;
    Extras extras{};

    double seconds() const { return points.empty() ? 0.0 : points.back().t_s; }
    bool operator==(const Walk&) const = default;
};

/// A saved place that the character jumps to by key.
struct Place {
    std::string name;
    Vec3 at{0.0}; ///< the character's feet
    double heading_deg = 0.0;
    Extras extras{};

    bool operator==(const Place&) const = default;
};

/// A height at which the Plan is cut, with the floor that belongs to it.
struct Storey {
    std::string name;
    double floor_m = 0.0;
    double cut_m = 1.5;
    Extras extras{};

    bool operator==(const Storey&) const = default;
};

enum class UpAxis { y, z };

/// Geometry read from a glTF or OBJ file.
struct GeometryFile {
    std::string file;      ///< relative to the project's folder
    UpAxis up = UpAxis::y; ///< of an OBJ; glTF is Y-up by definition
    Extras extras{};

    bool operator==(const GeometryFile&) const = default;
};

/// A picture laid under an otherwise empty sheet. `at` is its lower left corner; in a side-on level along and up.
struct GeometryPicture {
    std::string file;      ///< relative to the project's folder
    double width_m = 50.0; ///< the length that the picture's width stands for; > 0
    Vec2 at{0.0};
    Extras extras{};

    bool operator==(const GeometryPicture&) const = default;
};

/// monostate: an empty grid.
using Geometry = std::variant<std::monostate, GeometryFile, GeometryPicture>;

/// The walking character.
struct Character {
    enum class Moves {
        freely,
        cells,     ///< a cell at a time the way it faces, or back, or aside; turned by quarters
        directions ///< a key for each side of the sheet: it faces there and goes one cell
    };

    Vec3 start{0.0}; ///< feet
    double heading_deg = 0.0;
    double earsHeight_m = 1.6; ///< of its head, above the feet
    double speed_m_s = 1.4;
    bool collides = true;
    Moves moves = Moves::freely;
    double cell_m = 1.0;        ///< of a grid with a middle of a cell where the level begins; > 0
    double jump_m = 0.5;        ///< how high it jumps; >= 0
    double gravity_m_s2 = 9.81; ///< by which it falls, what pulls nothing else; > 0
    Extras extras{};

    bool operator==(const Character&) const = default;
};

struct Level {
    LevelId id;
    std::string name;
    Geometry geometry;
    double metresPerUnit = 1.0; ///< > 0
    /// Which way one looks at the upright sheet, through where it begins, on which it is drawn and walked; nothing: it is
    /// drawn and walked on the plan.
    std::optional<Looking> sideOn;
    Character character;
    EdgeRules edges; ///< what counts as an edge of its floor
    std::vector<Storey> storeys;
    List<Emitter> emitters;
    List<Plant> plants; ///< rules that put more of them
    List<Zone> zones;
    List<Room> rooms;
    List<Opening> openings;
    Outside outside;
    List<Walk> walks;
    std::vector<Place> places;
    List<Post> posts; ///< expectations of what is heard
    Extras extras{};

    bool operator==(const Level&) const = default;
};

/// The air between the emitters and the ears.
struct Air {
    double temperature_c = 15.0;
    double humidity_pct = 60.0; ///< relative
    double pressure_kpa = 101.325;
    Extras extras{};

    bool operator==(const Air&) const = default;
};

struct Project {
    std::string name = "Untitled";
    std::string subtitle;
    std::uint64_t seed = 1;
    int voices = 64; ///< how many copies may be mixed at once in a level; 1 to 4096
    GivesWay voicesGiveWay = GivesWay::quietest;
    double voicesHoldOff_s = 0.0; ///< shortest time between the starts of any two one-shots that are heard; >= 0
    Air air;
    List<Level> levels;
    List<Sound> sounds;
    List<Falloff> falloffs;
    List<Family> families;
    List<Pattern> patterns;
    List<GameValue> gameValues;
    List<Signal> signalNames;
    List<Rig> rigs;
    RigId rig; ///< through which the levels are heard; empty, or gone: the first person
    Counting counting;
    std::vector<Material> materials;  ///< beside those of the library
    std::vector<SurfaceUse> surfaces; ///< chosen by hand
    Occlusion occlusion;
    List<Gaze> gazes;
    List<SoundTarget> soundTargets; ///< named ways to export its sounds
    Extras extras{};

    bool operator==(const Project&) const = default;
};

/// A new project: one level with an empty grid, one storey, one falloff.
Project blankProject();

} // namespace stone
