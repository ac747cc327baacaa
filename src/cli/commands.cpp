// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"

#include "analysis/findings.h"
#include "analysis/floor_findings.h"
#include "analysis/masking.h"
#include "engine/step_plan.h"
#include "hearing/model.h"
#include "hearing/reasons.h"
#include "media/sound_decoder.h"
#include "project/credits.h"
#include "project/edit.h"
#include "project/file_error.h"
#include "world/replay.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <utility>

namespace stone::cli
{

namespace
{

using Json = nlohmann::ordered_json;

void print(const Json& json)
{
    std::cout << json.dump(2, ' ', false, Json::error_handler_t::replace) << '\n';
}

/// JSON has no infinity: silence is null.
Json levelOrNull(double db)
{
    return std::isfinite(db) ? Json(db) : Json(nullptr);
}

std::string decibels(double db)
{
    char text[32];
    std::snprintf(text, sizeof text, "%8.1f dB", db);
    return std::isfinite(db) ? text : "   silent  ";
}

bool canBeRead(const std::filesystem::path& file)
{
    try {
        return !file.empty() && SoundDecoder(file).channels() > 0;
    } catch (const FileError&) {
        return false;
    }
}

/// By playable, those none of whose files can be opened: nobody hears them.
std::vector<bool> unreadableOf(const std::vector<Playable>& playables, const ResolveFile& resolve)
{
    std::vector<bool> unreadable;
    for (const Playable& playable : playables) {
        const auto& files = playable.sound->files;
        unreadable.push_back(
            std::none_of(files.begin(), files.end(), [&](const SoundFile& file) { return canBeRead(resolve(file.file)); }));
    }
    return unreadable;
}

} // namespace

const Level& Opened::level(const std::string& name) const
{
    if (name.empty()) {
        return *project->levels[0];
    }
    for (const auto& level : project->levels) {
        if (level->id.text == name || level->name == name) {
            return *level;
        }
    }
    throw UsageError("no level is called \"" + name + "\" in this project; see stone-echo-cli info");
}

Opened open(const std::string& path)
{
    std::shared_ptr<const PassingFolder> unpacked;
    if (isPack(path)) {
        unpacked = std::make_shared<const PassingFolder>();
        unpack(path, unpacked->path());
    }
    const std::filesystem::path document = documentPath(unpacked ? unpacked->path() : std::filesystem::path(path));
    ReadProject read = readProjectFile(document);
    return {std::make_shared<const Project>(std::move(read.project)), std::move(read.notices),
            std::filesystem::absolute(document).parent_path(), unpacked};
}

std::shared_ptr<const Ground> Opened::ground(const Level& level) const
{
    const LevelGeometry geometry = readGeometry(level, folder);
    if (!geometry.error.empty()) {
        std::cerr << "note: " << geometry.error << "; the level is taken as empty\n";
    }
    return geometry.ground;
}

Layout renderedLayout(const std::string& name)
{
    const std::optional<Layout> layout = layoutNamed(name);
    if (!layout) {
        throw UsageError("the layout \"" + name + "\" cannot be rendered; use one of " + layoutNames());
    }
    return *layout;
}

void reseed(Opened& opened, const std::optional<std::uint64_t>& seed)
{
    if (seed) {
        Project seeded = *opened.project;
        seeded.seed = *seed;
        opened.project = std::make_shared<const Project>(std::move(seeded));
    }
}

HearingModel modelWithoutSounds(const Opened& opened, const Level& level, std::shared_ptr<const Ground> ground)
{
    auto planted = plant(opened.project, level.id, ground, Ways::find);
    std::vector<Playable> playables = playablesOf(*planted->project, planted->level());
    std::vector<bool> unreadable = unreadableOf(playables, filesInside(opened.folder));
    return HearingModel(
        std::make_shared<const World>(std::move(planted), std::move(ground), LengthOf{}, Ways::find, std::move(playables)), {},
        std::move(unreadable));
}

namespace
{

/// Those that plant rules of this name have put there; false when there are none.
bool addCopies(const Level& level, const std::string& name, std::vector<std::uint32_t>& indices)
{
    const std::size_t before = indices.size();
    for (const auto& rule : level.plants) {
        if (rule->name != name && rule->id.text != name) {
            continue;
        }
        const std::string begins = copyId(rule->id, {}).text;
        for (std::uint32_t i = 0; i < level.emitters.size(); ++i) {
            if (level.emitters[i]->id.text.starts_with(begins)) {
                indices.push_back(i);
            }
        }
    }
    return indices.size() > before;
}

} // namespace

std::vector<std::uint32_t> named(const Level& level, const std::vector<std::string>& names)
{
    std::vector<std::uint32_t> indices;
    for (const std::string& name : names) {
        const std::size_t before = indices.size();
        if (addCopies(level, name, indices)) {
            continue;
        }
        for (std::uint32_t i = 0; i < level.emitters.size(); ++i) {
            if (level.emitters[i]->name == name || level.emitters[i]->id.text == name) {
                indices.push_back(i);
            }
        }
        if (indices.size() > before + 1) {
            std::string ids;
            for (std::size_t i = before; i < indices.size(); ++i) {
                ids += (ids.empty() ? "" : ", ") + level.emitters[indices[i]]->id.text;
            }
            std::cerr << indices.size() - before << " emitters are called \"" << name
                      << "\": all of them are taken. Ids tell them "
                      << "apart: " << ids << '\n';
        }
        if (indices.size() == before) {
            throw UsageError("no emitter is called \"" + name + "\" in the level \"" + level.name +
                             "\"; see stone-echo-cli info for their names");
        }
    }
    if (names.empty()) {
        for (std::uint32_t i = 0; i < level.emitters.size(); ++i) {
            indices.push_back(i);
        }
    }
    std::sort(indices.begin(), indices.end());
    indices.erase(std::unique(indices.begin(), indices.end()), indices.end());
    return indices;
}

Measuring measuring(Measure what)
{
    return {what, std::make_shared<const MeasureStore>(measuresFolder(cacheFolder()))};
}

int measures(bool clear)
{
    const MeasureStore store(measuresFolder(cacheFolder()));
    const MeasureStore::Size size = store.size();
    if (clear) {
        store.clear();
    }
    std::printf("%s%zu files, %.1f MB, in %s\n", clear ? "forgotten: " : "", size.files, static_cast<double>(size.bytes) / 1e6,
                store.folder().empty() ? "no folder: there is no home" : store.folder().c_str());
    return 0;
}

int info(const std::string& path, bool json)
{
    const Opened opened = open(path);
    const Project& project = *opened.project;
    Json out{{"name", project.name},    {"metres_per_unit", project.levels[0]->metresPerUnit},
             {"levels", Json::array()}, {"emitters", Json::array()},
             {"sounds", Json::array()}, {"falloffs", Json::array()},
             {"walks", Json::array()},  {"zones", Json::array()},
             {"rooms", Json::array()}};
    for (const auto& level : project.levels) {
        out["levels"].push_back({{"name", level->name}, {"id", level->id.text}, {"metres_per_unit", level->metresPerUnit}});
        for (const auto& emitter : level->emitters) {
            out["emitters"].push_back({{"name", emitter->name}, {"kind", wordOf(emitter->kind)}, {"level", level->name}});
        }
        for (const auto& zone : level->zones) {
            out["zones"].push_back({{"name", zone->name}, {"parent", zone->parent.text}, {"level", level->name}});
        }
        for (const auto& room : level->rooms) {
            out["rooms"].push_back({{"name", room->name}, {"rt60_s", room->reverb.rt60_s}, {"level", level->name}});
        }
        for (const auto& walk : level->walks) {
            out["walks"].push_back({{"name", walk->name}, {"seconds", walk->seconds()}, {"level", level->name}});
        }
    }
    for (const auto& sound : project.sounds) {
        Json files = Json::array();
        for (const SoundFile& file : sound->files) {
            files.push_back(file.file);
        }
        out["sounds"].push_back({{"name", sound->name}, {"files", std::move(files)}});
    }
    for (const auto& falloff : project.falloffs) {
        out["falloffs"].push_back({{"name", falloff->name}, {"users", usersOf(project, falloff->id)}});
    }
    if (json) {
        print(out);
        return 0;
    }
    std::cout << project.name << '\n';
    for (const auto& level : project.levels) {
        std::cout << "level " << level->name << ", 1 unit = " << level->metresPerUnit << " m\n";
        for (const auto& emitter : level->emitters) {
            std::cout << "  " << wordOf(emitter->kind) << "  " << emitter->name << '\n';
        }
        for (const auto& zone : level->zones) {
            std::cout << "  zone   " << zone->name << '\n';
        }
        for (const auto& room : level->rooms) {
            std::cout << "  room   " << room->name << '\n';
        }
        for (const auto& walk : level->walks) {
            std::cout << "  walk   " << walk->name << ", " << walk->seconds() << " s\n";
        }
    }
    std::cout << project.sounds.size() << " sounds, " << project.falloffs.size() << " shared falloffs\n";
    return 0;
}

int probe(const Probe& options)
{
    const Opened opened = open(options.project);
    const Level& written = opened.level(options.level);
    constexpr int rate = 48'000;
    SoundBank bank(rate, measuring(Measure::peak));
    // Only a moment in time asks for how long sounds are, and for what has happened by then.
    const HearingModel model = options.time_s ? makeScene(opened.project, written.id, bank, filesInside(opened.folder),
                                                          Loading::now, opened.ground(written))
                                                    ->model
                                              : modelWithoutSounds(opened, written, opened.ground(written));
    const Level& level = model.level();
    WorldState state;
    Moment moment(options.ears, TimeSpan{});
    if (options.time_s) {
        Pose feet = options.ears;
        feet.at.z -= level.character.earsHeight_m;
        state = Replay(model.sharedWorld(), feet, static_cast<double>(stepFrames) / rate).at(*options.time_s);
        moment = model.world().momentOf(state, options.ears, TimeSpan::at(*options.time_s));
    }
    std::vector<Heard> all;
    for (const std::uint32_t index : named(level, options.only)) {
        all.push_back(model.hearOne(moment, index));
    }
    const Pose& ears = options.ears;
    if (!options.json) {
        std::stable_sort(all.begin(), all.end(), [](const Heard& a, const Heard& b) { return a.level_db > b.level_db; });
        for (const Heard& heard : all) {
            const Emitter& emitter = *level.emitters[heard.index];
            std::cout << decibels(heard.level_db) << "  " << emitter.name << '\n';
            for (const Term& term : heard.terms) {
                std::cout << "    " << decibels(term.db) << "  " << termName(term.kind) << ", " << reasonOf(model, heard, term)
                          << '\n';
            }
        }
        return 0;
    }
    Json out{{"at", {ears.at.x, ears.at.y, ears.at.z}},
             {"heading", ears.heading_deg},
             {"pitch", ears.pitch_deg},
             {"roll", ears.roll_deg},
             {"time", options.time_s.value_or(0.0)},
             {"level", level.name},
             {"emitters", Json::array()}};
    for (const Heard& heard : all) {
        const Emitter& emitter = *level.emitters[heard.index];
        const bool bed = emitter.kind == EmitterKind::bed && emitter.zone.empty();
        Json terms = Json::array();
        for (const Term& term : heard.terms) {
            terms.push_back(
                {{"name", termName(term.kind)}, {"db", levelOrNull(term.db)}, {"why", reasonOf(model, heard, term)}});
        }
        Json bands = Json::array();
        for (const double level_db : model.bands_db(heard)) {
            bands.push_back(levelOrNull(level_db));
        }
        out["emitters"].push_back({{"name", emitter.name},
                                   {"kind", wordOf(emitter.kind)},
                                   {"audible", heard.audible},
                                   {"distance_m", bed ? Json(nullptr) : Json(heard.bearing.distance_m)},
                                   {"azimuth_deg", bed ? Json(nullptr) : Json(heard.bearing.azimuth_deg)},
                                   {"elevation_deg", bed ? Json(nullptr) : Json(heard.bearing.elevation_deg)},
                                   {"level_db", levelOrNull(heard.level_db)},
                                   {"terms", std::move(terms)},
                                   {"bands_db", std::move(bands)}});
    }
    print(out);
    return 0;
}

int check(const std::string& path, bool json, bool floor)
{
    const Opened opened = open(path);
    SoundBank bank(48'000, measuring(Measure::all));
    const std::vector<LevelGeometry> geometry = readGeometry(*opened.project, opened.folder);
    std::vector<Finding> findings =
        findAll({*opened.project, opened.notices, geometry, bank, filesInside(opened.folder), Loading::now});
    for (std::size_t i = 0; floor && i < opened.project->levels.size(); ++i) {
        const Level& level = *opened.project->levels[i];
        const auto scene =
            makeScene(opened.project, level.id, bank, filesInside(opened.folder), Loading::now, opened.ground(level));
        for (Finding& one : findOverFloor(scene->model, bandsOf(*scene), std::thread::hardware_concurrency())) {
            findings.push_back(std::move(one));
        }
    }
    const bool matters =
        std::any_of(findings.begin(), findings.end(), [](const Finding& f) { return f.severity != Finding::Severity::note; });
    if (json) {
        Json out{{"findings", Json::array()}};
        for (const Finding& f : findings) {
            out["findings"].push_back(
                {{"code", f.code}, {"severity", nameOf(f.severity)}, {"what", f.what}, {"where", f.where}, {"fix", f.fix}});
        }
        print(out);
    } else {
        for (const Finding& f : findings) {
            std::cout << nameOf(f.severity) << ": " << f.where << ": " << f.what << "; " << f.fix << " [" << f.code << "]\n";
        }
        std::cout << (findings.empty() ? "nothing found\n" : "");
    }
    return matters ? 1 : 0;
}

int credits(const std::string& path, bool json)
{
    const Opened opened = open(path);
    const std::vector<CreditLine> lines = creditsOf(*opened.project);
    if (json) {
        Json out{{"credits", Json::array()}};
        for (const CreditLine& line : lines) {
            out["credits"].push_back({{"file", line.file},
                                      {"sounds", line.sounds},
                                      {"author", line.credit.author},
                                      {"source", line.credit.source},
                                      {"licence", line.credit.licence}});
        }
        print(out);
    } else {
        std::cout << creditsText(lines);
    }
    return 0;
}

} // namespace stone::cli
