// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/room_response.h"
#include "exports/prepared_sounds.h"
#include "geometry/pose.h"
#include "hearing/model.h"
#include "level/ground.h"
#include "media/pack.h"
#include "media/sound_file.h"
#include "project/read.h"
#include "spatial/layout.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <stdexcept>
#include <string>
#include <thread>
#include <vector>

/// The commands behind the command line. Each returns the program's exit code and throws FileError or UsageError with
/// one line for stderr.
namespace stone::cli
{

/// What was asked for cannot be done with this project: one line, exit code 2.
class UsageError : public std::runtime_error
{
public:
    using std::runtime_error::runtime_error;
};

/// A project with the folder that its files are found in.
struct Opened {
    std::shared_ptr<const Project> project;
    std::vector<ReadNotice> notices;
    std::filesystem::path folder;
    std::shared_ptr<const PassingFolder> unpacked{}; ///< of a pack

    /// The named level, or the first one. Throws UsageError.
    const Level& level(const std::string& name) const;
    /// The level's geometry; null when it has none or it cannot be read, which is noted on stderr.
    std::shared_ptr<const Ground> ground(const Level& level) const;
};
Opened open(const std::string& path);

/// Measures are kept where the window keeps them.
Measuring measuring(Measure what);
/// How much of that there is, and where; `clear`: forgets it.
int measures(bool clear);

int info(const std::string& path, bool json);

/// Plays for a game that is running, and tells it what is changed.
struct Follow {
    std::string project;
    std::string level;
    int port = 9137;
    bool anywhere = false; ///< other machines may tell too
    std::string layout = "stereo";
    int rate = 48'000;
    std::string output;            ///< a sound card's name; empty: the usual one; "none": nothing is heard
    std::string out;               ///< a sound file to write; empty: none
    std::string take;              ///< a take to record; empty: none
    std::optional<double> seconds; ///< until somebody ends it
};
int follow(const Follow& options);

struct Probe {
    std::string project;
    std::string level;
    Pose ears;
    std::optional<double> time_s; ///< left out: as if everything sounded
    std::vector<std::string> only;
    bool json = false;
};
int probe(const Probe& options);

struct Render {
    std::string project;
    std::string level;
    std::string walk;
    std::optional<Pose> ears;
    double seconds = 0.0;
    std::string out;
    std::string layout = "stereo";
    std::string ears_sofa; ///< empty: the built-in head
    std::vector<std::string> only;
    std::vector<std::string> without;
    std::optional<std::uint64_t> seed;
    std::string rig; ///< empty: the project's own
    int rate = 48'000;
    std::size_t block = 256;
    unsigned threads = std::thread::hardware_concurrency();
    std::optional<double> from_s;
    std::optional<double> to_s;
};
int render(const Render& options);

struct MapOptions {
    std::string project;
    std::string level;
    std::string storey;            ///< empty: on which the character starts
    std::vector<std::string> only; ///< empty: all
    std::uint32_t cells = 128;     ///< along the longer side
    std::uint32_t tile = 1;        ///< of so many: the rows of that part alone
    std::uint32_t tiles = 1;
    std::string csv; ///< empty: to stdout, unless `json` or `png`
    std::string png; ///< empty: no picture; of the whole only
    double step_db = 6.0;
    bool gaze = false;  ///< gazes count, looking north
    bool begin = false; ///< as when the level begins, instead of what is irregular by its mean energy
    bool json = false;
    unsigned threads = std::thread::hardware_concurrency();
};
/// How loud it is where, cell by cell.
int map(const MapOptions& options);

/// What is written of a project for other programs.
struct Export {
    std::string project;
    std::string tables; ///< a folder for tables; empty: none
    std::string sounds; ///< one for prepared sounds
    SoundTarget target;
    std::string gltf;    ///< a .glb to write; empty: none
    std::string page;    ///< a page for a browser to write; empty: none
    std::string level;   ///< that goes into these; empty: the first
    std::string renders; ///< a folder for renders of a walk; empty: none
    std::string walk;
    std::vector<std::string> layouts;
    std::string responses;  ///< one for what rooms answer
    std::string directions; ///< one for a sound from all round
    std::string of;         ///< that sound
    int count = 8;          ///< of directions
    std::string as;         ///< one of the project's, instead; empty: none
    bool preview = false;   ///< only what would be written, and how large it is
};
int exportAll(const Export& asked);
/// Packs a project into one file, its sounds as they are or prepared; and unpacks one.
struct Packing {
    std::string project;
    std::string out;
    bool prepared = false;
    SoundTarget target;
    std::string as; ///< one of the project's ways to export sounds
};
int pack(const Packing& options);
int unpackTo(const std::string& pack, const std::string& folder);
/// What of it is rendered: walks in layouts, a sound from directions, rooms' responses.
void exportRendered(const Opened& opened, const Export& options);
/// Takes tables of emitters and walks back in, and writes the document that comes of it.
int takeTables(const std::string& path, const std::vector<std::string>& tables, const std::string& out);

/// The edges of a level's floor: how many of each kind, or all of them as JSON. `kind`: of that kind alone.
int edges(const std::string& path, const std::string& level, const std::string& kind, bool json);
/// How many copies each plant rule of a level puts, or all their places as JSON.
int plants(const std::string& path, const std::string& level, bool json);

struct PostsOptions {
    std::string project;
    std::string level;
    std::string take;  ///< judges this one instead of what is rendered; posts that stand still are left out
    std::string junit; ///< a file for build servers; empty: none
    bool json = false;
    unsigned threads = std::thread::hardware_concurrency();
};
/// Whether what is expected of a level is so; 1 where some of it is not, or cannot be judged.
int posts(const PostsOptions& options);

struct SolveOptions {
    std::string project;
    std::string levelName; ///< of the project's levels; empty: the first
    std::string emitter;
    std::vector<std::string> want;    ///< "X,Y,Z=DB": feet, and the level wished for there
    std::vector<std::string> silent;  ///< "X,Y,Z"
    std::vector<std::string> lowPass; ///< "X,Y,Z=HZ"
    std::string evenOut;              ///< a family; instead of all those
    bool curve = false;               ///< by a curve, not a formula
    bool level = false;               ///< the emitter's level may change too
    bool write = false;               ///< into the document
};
/// Fits a falloff to wishes, or evens out a family's levels; 1 where a wish is missed.
int solve(const SolveOptions& options);

struct TakeOptions {
    std::string project;
    std::string level;
    std::string walk;
    std::string out;
    std::string layout = "stereo";
    std::optional<std::uint64_t> seed;
    int rate = 48'000;
    bool sound = true;
    std::string note;
};
/// Records a take of a walk.
int take(const TakeOptions& options);
/// What was changed between two takes, and what that did.
int compareTakes(const std::string& first, const std::string& second, bool json);
/// One value of a take over its time, as CSV; `csv`: empty: to stdout.
int series(const std::string& file, const std::string& what, const std::string& emitter, const std::string& csv);
/// A take as one page for a browser; `other`: empty, or one that it is compared with.
int takePage(const std::string& file, const std::string& other, const std::string& out);
/// Findings along a take; 1 when there are any.
int checkTake(const std::string& file, bool json);

/// What two rigs make of the same walk: the second less the first.
struct Compare {
    std::string project;
    std::string level;
    std::string walk;
    std::string first;
    std::string second;
};
int compare(const Compare& options);

/// What a place answers to an impulse: its decay by octave band, and the response as a file.
struct Impulse {
    std::string project;
    std::string level;
    Pose ears;
    Vec3 source{0.0};
    std::string out; ///< empty: none
    std::string layout = "mono";
    int rate = 48'000;
    bool json = false;
};
int impulse(const Impulse& options);

/// Every sound with its source, author and licence, by author; those without come last.
/// What two documents say differently, in words or as JSON.
int diff(const std::string& before, const std::string& after, bool json);
/// Puts two documents together that were made of a third; 1 with the clashes listed, in which `ours` is taken.
int merge(const std::string& base, const std::string& ours, const std::string& theirs, const std::string& out);
int credits(const std::string& path, bool json);

/// What was found; 1 where it matters. `floor`: the whole of the floor of every level is looked over too.
int check(const std::string& path, bool json, bool floor);

/// The level's walk of this name (or id). Throws UsageError.
const Walk& walkNamed(const Level& level, const std::string& name);

/// The project's rig of this name (or id); "First person" is always there. Throws UsageError.
const RigId& rigNamed(const Project& project, const std::string& name);

/// Says on stderr which rooms do not answer because their impulse response is not there. `responses`: see Scene.
void noteSilentRooms(const Level& level, const std::vector<SharedResponse>& responses);

/// A layout that can be rendered, by its name. Throws UsageError.
Layout renderedLayout(const std::string& name);

/// Another seed in place of the project's own; none: it stays.
void reseed(Opened& opened, const std::optional<std::uint64_t>& seed);

/// A level as it is heard whose sounds need not be known further than whether there are any. `ground`: the level's, or null.
HearingModel modelWithoutSounds(const Opened& opened, const Level& level, std::shared_ptr<const Ground> ground);

/// Indices of the level's emitters with these names (or ids); all of them when `names` is empty. Throws UsageError.
std::vector<std::uint32_t> named(const Level& level, const std::vector<std::string>& names);

} // namespace stone::cli
