// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/command_line.h"

#include "cli/commands.h"
#include "spatial/layout.h"

#include <CLI/CLI.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <filesystem>
#include <iostream>
#include <limits>
#include <map>

namespace stone::cli
{

namespace
{

/// "1,2,3" as a place.
Vec3 placeFrom(const char* option, const std::string& text)
{
    Vec3 at{0.0};
    std::istringstream in(text);
    char comma = 0;
    char comma2 = 0;
    in >> at.x >> comma >> at.y >> comma2 >> at.z;
    if (!in || comma != ',' || comma2 != ',' || in.peek() != EOF ||
        !(std::max({std::abs(at.x), std::abs(at.y), std::abs(at.z)}) <= 1e6)) {
        throw UsageError(std::string(option) + " \"" + text +
                         "\": expected X,Y,Z in metres, within a thousand kilometres, as in " + option + " 1,2.5,1.6");
    }
    return at;
}

constexpr double longest_s = 1e6;

/// A finite number within bounds: what compares with nothing, as NaN, is not.
CLI::Validator between(double least, double most)
{
    return {[least, most](const std::string& text) {
                double value = 0.0;
                const bool number = !text.empty() && CLI::detail::lexical_cast(text, value);
                return number && value >= least && value <= most
                           ? std::string()
                           : text + " is not a number from " + std::to_string(std::lround(least)) + " to " +
                                 std::to_string(std::lround(most));
            },
            "NUMBER"};
}

/// A whole number that fits: what is too large would else be taken for the largest there is.
CLI::Validator whole()
{
    return {[](const std::string& text) {
                std::uint64_t value = 0;
                const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
                return error == std::errc() && end == text.data() + text.size()
                           ? std::string()
                           : text + " is not a whole number from 0 to " +
                                 std::to_string(std::numeric_limits<std::uint64_t>::max());
            },
            "NUMBER"};
}

/// The options that say where the ears are.
struct EarsOptions {
    std::string at;
    double heading_deg = 0.0;
    double pitch_deg = 0.0;
    double roll_deg = 0.0;

    CLI::Option* add(CLI::App& command)
    {
        CLI::Option* place = command.add_option("--at", at, "where the ears are: X,Y,Z in metres");
        constexpr double most_deg = 1e6;
        const CLI::Validator degrees = between(-most_deg, most_deg);
        command.add_option("--heading", heading_deg, "degrees clockwise from north (+Y)")->check(degrees);
        command.add_option("--pitch", pitch_deg, "degrees, positive looking up")->check(degrees);
        command.add_option("--roll", roll_deg, "degrees, positive with the right ear down")->check(degrees);
        return place;
    }
    Pose pose() const { return {placeFrom("--at", at), heading_deg, pitch_deg, roll_deg}; }
};

} // namespace

Command commandFrom(std::vector<std::string> arguments)
{
    CLI::App app{"Stone Echo without a window: looks at, listens to and renders projects.", "stone-echo-cli"};
    app.require_subcommand(1);
    app.set_version_flag("--version", STONE_VERSION);

    std::string project;
    bool json = false;
    const auto common = [&](CLI::App* command) {
        command->add_option("PROJECT", project, "the project's folder or its document")->required();
        return command;
    };

    CLI::App* info = common(app.add_subcommand("info", "what is in a project"));
    info->add_flag("--json", json);

    Probe probeOptions;
    EarsOptions probeEars;
    CLI::App* probe = common(app.add_subcommand("probe", "what reaches the ears at a place, and why"));
    probeEars.add(*probe)->required();
    probe->add_option("--time", probeOptions.time_s, "seconds since the level started; left out: as if everything sounded")
        ->check(between(0.0, longest_s));
    probe->add_option("--only", probeOptions.only, "an emitter's name; may be given several times")->take_all();
    probe->add_option("--level", probeOptions.level, "a level's name; the first one if left out");
    probe->add_flag("--json", json);

    Follow followOptions;
    CLI::App* follow = common(app.add_subcommand("follow", "plays for a game that is running and tells where everything is"));
    follow->add_option("--level", followOptions.level,
                       "a level's name, until the game says another; the first one if left out");
    follow->add_option("--port", followOptions.port, "at which the game tells; 9137 if left out, 0: any that is free")
        ->check(CLI::Range(0, 65'535));
    follow->add_flag("--anywhere", followOptions.anywhere, "lets other machines tell too; otherwise this one alone");
    follow->add_option("--layout", followOptions.layout, "one of " + layoutNames());
    follow->add_option("--rate", followOptions.rate, "frames per second")->check(CLI::Range(8'000, 192'000));
    follow->add_option("--output", followOptions.output, "a sound card's name; \"none\": nothing is heard");
    follow->add_option("--out", followOptions.out, "a WAV file of all that is played");
    follow->add_option("--take", followOptions.take, "a take of it");
    follow->add_option("--seconds", followOptions.seconds, "ends after so long; left out: with Ctrl+C")
        ->check(between(0.0, longest_s));

    Render renderOptions;
    EarsOptions renderEars;
    CLI::App* render = common(app.add_subcommand("render", "what is heard, as a WAV file"));
    CLI::Option* walk = render->add_option("--walk", renderOptions.walk, "a walk's name");
    CLI::Option* at = renderEars.add(*render)->excludes(walk);
    CLI::Option* seconds =
        render->add_option("--seconds", renderOptions.seconds, "length, with --at")->check(between(0.0, longest_s));
    render->add_option("--out", renderOptions.out, "the file to write")->required();
    render->add_option("--layout", renderOptions.layout, "one of " + layoutNames());
    render->add_option("--only", renderOptions.only, "an emitter's name; may be given several times")->take_all();
    render->add_option("--without", renderOptions.without, "an emitter to leave out; may be given several times")->take_all();
    render->add_option("--level", renderOptions.level, "a level's name; the first one if left out");
    render->add_option("--seed", renderOptions.seed, "in place of the project's own")->check(whole());
    render->add_option("--rate", renderOptions.rate, "frames per second")->check(CLI::Range(8'000, 192'000));
    render
        ->add_option("--threads", renderOptions.threads,
                     "how many work at it, one for each core if left out; the result is the same")
        ->check(CLI::Range(1, 256));
    render->add_option("--block", renderOptions.block, "frames mixed at once")->check(CLI::Range(1, 1 << 20));
    render->add_option("--from", renderOptions.from_s, "seconds")->check(between(0.0, longest_s));
    render->add_option("--to", renderOptions.to_s, "seconds")->check(between(0.0, longest_s));

    render->add_option("--ears", renderOptions.ears_sofa,
                       "measured ears (a SOFA file) for --layout binaural; else the built-in head");

    render->add_option("--rig", renderOptions.rig, "listens through this rig in place of the project's own");

    Compare compareOptions;
    CLI::App* compare = common(app.add_subcommand("compare", "what two rigs make of the same walk"));
    compare->add_option("--level", compareOptions.level, "a level's name; the first one if left out");
    compare->add_option("--walk", compareOptions.walk, "the walk")->required();
    compare->add_option("--first", compareOptions.first, "a rig, or \"First person\"")->required();
    compare->add_option("--second", compareOptions.second, "a rig, or \"First person\"")->required();

    Impulse impulseOptions;
    EarsOptions impulseEars;
    std::string impulseFrom;
    CLI::App* impulse = common(app.add_subcommand("impulse", "what a place answers to an impulse, and how that dies away"));
    impulseEars.add(*impulse)->required();
    impulse->add_option("--from", impulseFrom, "where the impulse is: X,Y,Z in metres; a metre ahead of the ears if left out");
    impulse->add_option("--out", impulseOptions.out, "a WAV file to write the response to");
    impulse->add_option("--layout", impulseOptions.layout, "one of " + layoutNames());
    impulse->add_option("--level", impulseOptions.level, "a level's name; the first one if left out");
    impulse->add_option("--rate", impulseOptions.rate, "frames per second")->check(CLI::Range(8'000, 192'000));
    impulse->add_flag("--json", json);

    TakeOptions takeOptions;
    bool noSound = false;
    CLI::App* take = common(app.add_subcommand("take", "records what a walk is like, moment by moment"));
    take->add_option("--walk", takeOptions.walk, "a walk's name")->required();
    take->add_option("--out", takeOptions.out, "the take to write")->required();
    take->add_option("--layout", takeOptions.layout, "one of " + layoutNames());
    take->add_option("--level", takeOptions.level, "a level's name; the first one if left out");
    take->add_option("--seed", takeOptions.seed, "in place of the project's own")->check(whole());
    take->add_option("--rate", takeOptions.rate, "frames per second")->check(CLI::Range(8'000, 192'000));
    take->add_flag("--no-sound", noSound, "keeps no sound, only what was measured of it");
    take->add_option("--note", takeOptions.note, "a word on what it is for");

    MapOptions mapOptions;
    std::string tile;
    CLI::App* map = common(app.add_subcommand("map", "how loud it is where on a storey, cell by cell, as CSV or JSON"));
    map->add_option("--only", mapOptions.only, "an emitter's name; may be given several times")->take_all();
    map->add_option("--level", mapOptions.level, "a level's name; the first one if left out");
    map->add_option("--storey", mapOptions.storey, "a storey's name; that on which the character starts if left out");
    map->add_option("--cells", mapOptions.cells, "cells along the longer side")->check(CLI::Range(1, 4'096));
    map->add_option("--tile", tile, "I/N: the I-th of N parts alone; in their order they are the whole")
        ->check([](const std::string& text) {
            unsigned i = 0;
            unsigned n = 0;
            char more = 0;
            const bool good = std::sscanf(text.c_str(), "%u/%u%c", &i, &n, &more) == 2 && i >= 1 && i <= n && n <= 4'096;
            return good ? std::string() : "\"" + text + "\" is no tile: write I/N, such as 2/8";
        });
    map->add_option("--csv", mapOptions.csv, "a file to write; to stdout if left out");
    map->add_option("--png", mapOptions.png, "a picture to write, with contour lines and a key");
    map->add_flag("--gaze", mapOptions.gaze, "gazes count, looking north");
    map->add_flag(
        "--begin", mapOptions.begin,
        "as when the level begins: no sprinkle has fallen, Roamers are at their first stop; otherwise their mean energy");
    map->add_option("--step", mapOptions.step_db, "dB between its contour lines")->check(between(0.5, 60.0));
    map->add_flag("--json", json);

    PostsOptions postsOptions;
    CLI::App* posts =
        common(app.add_subcommand("posts", "whether what is expected of a level is so; exit code 1 where it is not"));
    posts->add_option("--level", postsOptions.level, "a level's name; the first one if left out");
    posts->add_option("--take", postsOptions.take, "a take to judge, instead of walks that are rendered for it");
    posts->add_option("--junit", postsOptions.junit, "a file to write for build servers, as JUnit XML");
    posts->add_flag("--json", json);

    SolveOptions solveOptions;
    CLI::App* solve = common(app.add_subcommand("solve", "the falloff by which an emitter is heard as it is wished for"));
    solve->add_option("--level", solveOptions.levelName, "a level's name; the first one if left out");
    solve->add_option("--emitter", solveOptions.emitter, "whose falloff");
    solve->add_option("--want", solveOptions.want, "X,Y,Z=DB: where the character stands, and how loud it is to be there")
        ->take_all();
    solve->add_option("--silent", solveOptions.silent, "X,Y,Z: where it is to be gone")->take_all();
    solve->add_option("--low-pass", solveOptions.lowPass, "X,Y,Z=HZ: how bright it may be there")->take_all();
    solve->add_flag("--curve", solveOptions.curve, "by a curve through the wishes instead of a formula");
    solve->add_flag("--with-level", solveOptions.level, "the emitter's own level may change too");
    solve->add_option("--even-out", solveOptions.evenOut, "a family whose members are to be as loud at their own posts");
    solve->add_flag("--write", solveOptions.write, "writes it into the document");

    CLI::App* credits = common(app.add_subcommand("credits", "whose sounds are used, by author"));
    credits->add_flag("--json", json);

    std::string first;
    std::string second;
    std::string third;
    std::string mergedTo;
    CLI::App* diff = app.add_subcommand("diff", "what two documents say differently");
    diff->add_option("A", first, "a project's folder or its document")->required();
    diff->add_option("B", second, "another")->required();
    diff->add_flag("--json", json);

    CLI::App* compareTakes = app.add_subcommand("compare-takes", "what was changed between two takes, and what that did");
    compareTakes->add_option("A", first, "a take")->required();
    compareTakes->add_option("B", second, "another")->required();
    compareTakes->add_flag("--json", json);

    std::string seriesWhat;
    std::string seriesOf;
    std::string seriesTo;
    CLI::App* series = app.add_subcommand("series", "one value of a take over its time, as CSV");
    series->add_option("TAKE", first, "a take")->required();
    series
        ->add_option(
            "--what", seriesWhat,
            "level, copies, gave-way, distance-m, voices, cpu, memory, loudness, short-term, integrated, peak, a line of "
            "the Ledger (\"Walls\"), or a game value")
        ->required();
    series->add_option("--emitter", seriesOf, "an emitter's name; all together if left out");
    series->add_option("--csv", seriesTo, "a file to write; what is asked for goes to stdout if left out");

    CLI::App* takePage = app.add_subcommand("take-page", "a take as one page for a browser, to show others");
    takePage->add_option("TAKE", first, "a take")->required();
    takePage->add_option("--out", third, "the page to write, .html")->required();
    takePage->add_option("--against", second, "another take that it is compared with");

    std::string ofLevel;
    std::string ofKind;
    CLI::App* edges = common(app.add_subcommand("edges", "the edges of a level's floor: drops, walls, kerbs, steps, water"));
    edges->add_option("--level", ofLevel, "a level's name; the first one if left out");
    edges->add_option("--kind", ofKind, "those of a kind alone")
        ->check(CLI::IsMember({"drop", "wall", "kerb", "step", "water"}));
    edges->add_flag("--json", json, "each with its points, its floor on the left of the way along it");

    CLI::App* plants = common(app.add_subcommand("plant", "what each plant rule of a level puts where"));
    plants->add_option("--level", ofLevel, "a level's name; the first one if left out");
    plants->add_flag("--json", json, "each rule with all its places");

    Export exportOptions;
    bool keepChannels = false;
    const auto matched = std::make_shared<std::optional<double>>();
    CLI::App* exports = common(app.add_subcommand("export", "writes what a project says for other programs"));
    CLI::Option* tablesTo = exports->add_option("--tables", exportOptions.tables,
                                                "tables (CSV) of emitters, falloffs, zones, rooms, openings, walks, sounds and "
                                                "posts, into this folder");
    CLI::Option* soundsTo = exports->add_option("--sounds", exportOptions.sounds,
                                                "every file of the sounds as a game wants it, into this folder, with a table "
                                                "of what became of them");
    std::map<std::string, SoundTarget::Format> formats;
    for (std::size_t i = 0; i < soundFormatCount; ++i) {
        formats[wordOf(static_cast<SoundTarget::Format>(i))] = static_cast<SoundTarget::Format>(i);
    }
    exports->add_option("--format", exportOptions.target.format, "of sounds: wav16, wav24, flac, vorbis or opus")
        ->transform(CLI::CheckedTransformer(formats));
    exports->add_option("--rate", exportOptions.target.rate, "of sounds, frames per second; left out: as each is")
        ->check(CLI::Range(8'000, 192'000));
    exports->add_option("--quality", exportOptions.target.quality, "of vorbis and opus: 0 small, 1 good")
        ->check(between(0.0, 1.0));
    const CLI::Option* gltfTo =
        exports->add_option("--gltf", exportOptions.gltf, "a .glb to write: a level with its emitters (KHR_audio_emitter)");
    const CLI::Option* pageTo =
        exports->add_option("--page", exportOptions.page,
                            "an .html to write: the level to walk in and hear in a browser, by what that can do itself");
    exports->add_option("--level", exportOptions.level, "the level that goes into these; the first one if left out");
    const CLI::Option* rendersTo =
        exports->add_option("--renders", exportOptions.renders, "renders of --walk in all --layouts, into this folder");
    exports->add_option("--walk", exportOptions.walk, "the walk of --renders")->needs(const_cast<CLI::Option*>(rendersTo));
    exports->add_option("--layouts", exportOptions.layouts, "of what is rendered: one or more of " + layoutNames())
        ->delimiter(',');
    const CLI::Option* responsesTo =
        exports->add_option("--responses", exportOptions.responses, "what each room of the level answers, into this folder");
    const CLI::Option* directionsTo = exports->add_option(
        "--directions", exportOptions.directions, "a sound as it is heard from all round, a file each, into this folder");
    exports->add_option("--of", exportOptions.of, "which sound that is")->needs(const_cast<CLI::Option*>(directionsTo));
    exports->add_option("--count", exportOptions.count, "from so many directions; 8 if left out")->check(CLI::Range(1, 360));
    Packing packOptions;
    CLI::App* packs = common(app.add_subcommand("pack", "a project with all that it plays in one file, to be sent or shipped"));
    packs->add_option("--out", packOptions.out, "the file to write; its name ends in .stone-pack")->required();
    const CLI::Option* packFormat =
        packs->add_option("--format", packOptions.target.format, "prepares the sounds: wav16, wav24, flac, vorbis or opus")
            ->transform(CLI::CheckedTransformer(formats));
    const CLI::Option* packRate = packs->add_option("--rate", packOptions.target.rate, "of prepared sounds, frames per second")
                                      ->check(CLI::Range(8'000, 192'000));
    packs->add_option("--quality", packOptions.target.quality, "of vorbis and opus: 0 small, 1 good")->check(between(0.0, 1.0));
    packs->add_option("--as", packOptions.as, "one of the project's named ways to export sounds, in place of these");
    std::string unpacked;
    std::string unpackedTo;
    CLI::App* unpacks = app.add_subcommand("unpack", "a pack as a folder again");
    unpacks->add_option("PACK", unpacked, "the file")->required();
    unpacks->add_option("--out", unpackedTo, "the folder")->required();
    std::map<std::string, SoundTarget::Naming> namings;
    for (std::size_t i = 0; i < soundNamingCount; ++i) {
        namings[wordOf(static_cast<SoundTarget::Naming>(i))] = static_cast<SoundTarget::Naming>(i);
    }
    exports->add_option("--naming", exportOptions.target.naming, "of sounds: files, sounds or plain")
        ->transform(CLI::CheckedTransformer(namings));
    exports->add_option("--loudness", *matched, "makes all sounds as loud as this, LUFS; left out: as they are")
        ->check(between(-60.0, 0.0));
    exports->add_option("--as", exportOptions.as, "one of the project's named ways to export sounds, in place of all these");
    exports->add_flag("--keep-channels", keepChannels, "folds no sound to one channel");
    exports->add_flag("--trim", exportOptions.target.trim,
                      "leaves out what is silent before and after sounds that are no loops");
    exports->add_flag("--preview", exportOptions.preview, "says what would be written, and writes nothing");

    std::vector<std::string> tables;
    std::string takenTo;
    CLI::App* import = common(app.add_subcommand("import", "takes tables of emitters and walks back in"));
    import->add_option("TABLE", tables, "emitters.csv, walks.csv or tables like them")->required();
    import->add_option("--out", takenTo, "the document to write; may be the project's own")->required();

    CLI::App* merge = app.add_subcommand("merge", "puts together what two documents made of a third, by thing");
    merge->add_option("BASE", first, "what both were made of")->required();
    merge->add_option("OURS", second, "taken where both changed the same thing")->required();
    merge->add_option("THEIRS", third, "the other")->required();
    merge->add_option("--out", mergedTo, "the document to write; may be OURS")->required();

    bool forget = false;
    CLI::App* measures = app.add_subcommand("measures", "what was measured of sounds and is kept, so that it is measured once");
    measures->add_flag("--clear", forget, "forgets it");

    CLI::App* check = common(app.add_subcommand("check", "finds what a person should look at, in a project or along a take"));
    check->add_flag("--json", json);
    bool ofFloor = false;
    check->add_flag("--floor", ofFloor, "looks over the whole floor of every level too; takes as long as a map of it");

    try {
        std::reverse(arguments.begin(), arguments.end()); // as the parser wants them
        app.parse(arguments);
    } catch (const CLI::ParseError& error) {
        if (error.get_exit_code() == 0) {
            // Asked for help or the version.
            const int code = app.exit(error);
            return [code] { return code; };
        }
        throw UsageError(std::string(error.what()) + "; see stone-echo-cli --help");
    }
    if (info->parsed()) {
        return [=] { return cli::info(project, json); };
    }
    if (map->parsed()) {
        mapOptions.project = project;
        mapOptions.json = json;
        if (!tile.empty()) {
            std::sscanf(tile.c_str(), "%u/%u", &mapOptions.tile, &mapOptions.tiles);
        }
        return [=] { return cli::map(mapOptions); };
    }
    if (solve->parsed()) {
        solveOptions.project = project;
        if (solveOptions.evenOut.empty() && solveOptions.emitter.empty()) {
            throw UsageError("solve needs --emitter NAME with wishes, or --even-out FAMILY");
        }
        return [=] { return cli::solve(solveOptions); };
    }
    if (exports->parsed()) {
        if (tablesTo->empty() && soundsTo->empty() && gltfTo->empty() && pageTo->empty() && rendersTo->empty() &&
            responsesTo->empty() && directionsTo->empty()) {
            throw UsageError("say what is to be exported: --tables, --sounds, --renders, --responses or --directions with a "
                             "folder, --gltf or "
                             "--page with a file, or several of them");
        }
        exportOptions.project = project;
        exportOptions.target.fold = !keepChannels;
        if (*matched) {
            exportOptions.target.loudness = SoundTarget::Loudness::matched;
            exportOptions.target.loudness_lufs = **matched;
        }
        return [=] { return cli::exportAll(exportOptions); };
    }
    if (packs->parsed()) {
        packOptions.project = project;
        packOptions.prepared = !packFormat->empty() || !packRate->empty();
        return [=] { return cli::pack(packOptions); };
    }
    if (unpacks->parsed()) {
        return [=] { return cli::unpackTo(unpacked, unpackedTo); };
    }
    if (import->parsed()) {
        return [=] { return cli::takeTables(project, tables, takenTo); };
    }
    if (plants->parsed()) {
        return [=] { return cli::plants(project, ofLevel, json); };
    }
    if (edges->parsed()) {
        return [=] { return cli::edges(project, ofLevel, ofKind, json); };
    }
    if (posts->parsed()) {
        postsOptions.project = project;
        postsOptions.json = json;
        return [=] { return cli::posts(postsOptions); };
    }
    if (follow->parsed()) {
        followOptions.project = project;
        return [=] { return cli::follow(followOptions); };
    }
    if (probe->parsed()) {
        probeOptions.project = project;
        probeOptions.ears = probeEars.pose();
        probeOptions.json = json;
        return [=] { return cli::probe(probeOptions); };
    }
    if (compare->parsed()) {
        compareOptions.project = project;
        return [=] { return cli::compare(compareOptions); };
    }
    if (impulse->parsed()) {
        impulseOptions.project = project;
        impulseOptions.ears = impulseEars.pose();
        impulseOptions.json = json;
        impulseOptions.source = impulseFrom.empty() ? impulseOptions.ears.at + frameOf(impulseOptions.ears).ahead
                                                    : placeFrom("--from", impulseFrom);
        return [=] { return cli::impulse(impulseOptions); };
    }
    if (credits->parsed()) {
        return [=] { return cli::credits(project, json); };
    }
    if (diff->parsed()) {
        return [=] { return cli::diff(first, second, json); };
    }
    if (merge->parsed()) {
        return [=] { return cli::merge(first, second, third, mergedTo); };
    }
    if (take->parsed()) {
        takeOptions.project = project;
        takeOptions.sound = !noSound;
        return [=] { return cli::take(takeOptions); };
    }
    if (compareTakes->parsed()) {
        return [=] { return cli::compareTakes(first, second, json); };
    }
    if (takePage->parsed()) {
        return [=] { return cli::takePage(first, second, third); };
    }
    if (series->parsed()) {
        return [=] { return cli::series(first, seriesWhat, seriesOf, seriesTo); };
    }
    if (measures->parsed()) {
        return [=] { return cli::measures(forget); };
    }
    if (check->parsed()) {
        const bool ofTake = std::filesystem::path(project).extension() == ".take";
        return [=] { return ofTake ? cli::checkTake(project, json) : cli::check(project, json, ofFloor); };
    }
    renderOptions.project = project;
    if (walk->empty() && (at->empty() || (seconds->empty() && !renderOptions.to_s))) {
        throw UsageError("render needs --walk NAME, or --at X,Y,Z with --seconds S");
    }
    if (!at->empty()) {
        renderOptions.ears = renderEars.pose();
    }
    return [=] { return cli::render(renderOptions); };
}

} // namespace stone::cli
