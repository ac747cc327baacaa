#pragma once

#include "geometry/pose.h"
#include "project/list.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

/// The document: plain values, compared by value, cheap to copy. It knows nothing of files, threads, widgets or the
/// engine. Lengths in metres, times in seconds, levels in decibels (0 dB = the file's own level at the emitter).
namespace stone
{

/// Keys that this version does not know, kept as JSON text so that saving loses nothing.
using Extras = std::map<std::string, std::string>;

/// The distance models of the W3C Web Audio API (PannerNode).
enum class DistanceModel { inverse, linear, exponential };

/// Level over distance by a formula. See acoustics/distance.h for what it computes.
struct DistanceFormula {
    DistanceModel model = DistanceModel::inverse;
    double reference_m = 1.0;    ///< full level up to here; >= 0
    double maximum_m = 10'000.0; ///< where the linear model ends; the others do not use it; >= 0
    double factor = 1.0;         ///< steepness; >= 0
    double silentAt_m = 0.0;     ///< nothing is heard from here on, whatever the model; 0 = no such end; >= 0

    bool operator==(const DistanceFormula&) const = default;
};

/// The property that a lane draws, and what it follows.
enum class LaneProperty { level };
enum class LaneInput { distance };

/// One property drawn over one thing that it follows.
struct Lane {
    LaneProperty property = LaneProperty::level;
    LaneInput over = LaneInput::distance;
    DistanceFormula formula;
    Extras extras{};

    bool operator==(const Lane&) const = default;
};

/// A named set of lanes over distance. Emitters share it by id or carry one of their own.
struct Falloff {
    FalloffId id;
    std::string name;
    std::vector<Lane> lanes{Lane{}}; ///< at most one lane for each property
    Extras extras{};

    bool operator==(const Falloff&) const = default;
};

/// What is played: a file and how to play it.
struct Sound {
    SoundId id;
    std::string name;
    std::string file; ///< relative to the project's folder, '/' between parts
    bool loop = true;
    double level_db = 0.0;
    Extras extras{};

    bool operator==(const Sound&) const = default;
};

enum class EmitterKind {
    point, ///< sits at a place
    bed,   ///< surrounds the player everywhere; its image is fixed to the head
};

struct Emitter {
    EmitterId id;
    std::string name;
    EmitterKind kind = EmitterKind::point;
    Vec3 at{0.0}; ///< of a point; a bed does not use it
    SoundId sound;
    std::variant<FalloffId, Falloff> falloff; ///< shared by id, or its own; an empty id means the default formula
    double level_db = 0.0;
    double pitch_st = 0.0; ///< semitones
    bool muted = false;
    double startAfter_s = 0.0; ///< time from the start of the level until it begins
    Extras extras{};

    bool operator==(const Emitter&) const = default;
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

/// A picture laid under an otherwise empty sheet. `at` is its lower left corner.
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
    Vec3 start{0.0}; ///< feet
    double heading_deg = 0.0;
    double earsHeight_m = 1.6; ///< above the feet
    double speed_m_s = 1.4;
    bool collides = true;
    Extras extras{};

    bool operator==(const Character&) const = default;
};

struct Level {
    LevelId id;
    std::string name;
    Geometry geometry;
    double metresPerUnit = 1.0; ///< > 0
    Character character;
    std::vector<Storey> storeys;
    List<Emitter> emitters;
    List<Walk> walks;
    std::vector<Place> places;
    Extras extras{};

    bool operator==(const Level&) const = default;
};

struct Project {
    std::string name = "Untitled";
    std::string subtitle;
    std::uint64_t seed = 1;
    int voices = 64; ///< how many may be mixed at once; 1 to 4096
    List<Level> levels;
    List<Sound> sounds;
    List<Falloff> falloffs;
    Extras extras{};

    bool operator==(const Project&) const = default;
};

/// A new project: one level with an empty grid, one storey, one falloff.
Project blankProject();

} // namespace stone
