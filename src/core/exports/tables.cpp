// SPDX-License-Identifier: MPL-2.0
#include "exports/tables.h"

#include "acoustics/lane.h"
#include "geometry/solid.h"
#include "posts/post_result.h"
#include "project/edit.h"
#include "project/lane_json.h"
#include "project/sound_json.h"
#include "world/carriage.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

using Row = std::vector<std::string>;

std::string words(bool on)
{
    return on ? "yes" : "no";
}

void addPlace(Row& row, const Vec3& place)
{
    for (const double metres : {place.x, place.y, place.z}) {
        row.push_back(csvNumber(metres));
    }
}

CsvTable emittersOf(const std::vector<std::shared_ptr<const Planted>>& levels)
{
    CsvTable table{"emitters",
                   {"level", "id", "name", "kind", "east_m", "north_m", "up_m", "heading_deg", "tilt_deg", "sound", "falloff",
                    "family", "pattern", "level_db", "pitch_st", "muted", "planted_by"},
                   {}};
    for (const auto& planted : levels) {
        const Level& level = planted->level();
        for (std::uint32_t i = 0; i < level.emitters.size(); ++i) {
            const Emitter& emitter = *level.emitters[i];
            const auto copy = planted->copyAt(i);
            const auto* shared = std::get_if<FalloffId>(&emitter.falloff);
            Row row{level.id.text, emitter.id.text, emitter.name, wordOf(emitter.kind)};
            addPlace(row, emitter.at);
            row.insert(row.end(), {csvNumber(emitter.heading_deg), csvNumber(emitter.tilt_deg), emitter.sound.text,
                                   shared != nullptr ? shared->text : std::string(), emitter.family.text, emitter.pattern.text,
                                   csvNumber(emitter.level_db), csvNumber(emitter.pitch_st), words(emitter.muted),
                                   copy ? planted->rules[copy->rule].plant->id.text : std::string()});
            table.rows.push_back(std::move(row));
        }
    }
    return table;
}

const char* unitOf(LaneProperty property)
{
    static constexpr const char* units[] = {"dB", "Hz", "Hz", "deg", "share", "dB", "factor", "grades", "s", "st"};
    return units[static_cast<std::size_t>(property)];
}

const char* unitOf(LaneInput input)
{
    static constexpr const char* units[] = {"m", "deg", "deg", "m/s", "s", "m", "", "deg"};
    return units[static_cast<std::size_t>(input)];
}

/// Where a lane is sampled: evenly over all of it that changes, and at every point of a curve.
std::vector<double> samplesOf(const Lane& lane)
{
    constexpr int pieces = 32;
    constexpr double faint_db = -60.0;
    constexpr double farthest_m = 1000.0;
    double from = 0.0;
    double to = 180.0;
    std::vector<double> samples;
    if (lane.shape == LaneShape::curve && !lane.curve.empty()) {
        from = lane.curve.front().x;
        to = lane.curve.back().x;
        for (const CurvePoint& point : lane.curve) {
            samples.push_back(point.x);
        }
    } else if (lane.shape == LaneShape::formula) {
        const double end_m = silentFrom_m(lane);
        to = std::min(std::isfinite(end_m) ? end_m : lastAbove_m(lane, faint_db), farthest_m);
    }
    for (int i = 0; i <= pieces; ++i) {
        samples.push_back(from + (to - from) * i / pieces);
    }
    std::sort(samples.begin(), samples.end());
    samples.erase(std::unique(samples.begin(), samples.end()), samples.end());
    return samples;
}

CsvTable falloffsOf(const Project& project)
{
    CsvTable table{"falloffs", {"falloff", "name", "property", "over", "at", "at_unit", "value", "value_unit"}, {}};
    for (const auto& falloff : project.falloffs) {
        for (const Lane& lane : falloff->lanes) {
            const Json json = toJson(lane);
            for (const double x : lane.on ? samplesOf(lane) : std::vector<double>{}) {
                const double value = laneAt(lane, x);
                table.rows.push_back({falloff->id.text, falloff->name, json.value("property", "level"),
                                      json.value("over", "distance"), csvNumber(x), unitOf(lane.over),
                                      std::isfinite(value) ? csvNumber(value) : "-inf", unitOf(lane.property)});
            }
        }
    }
    return table;
}

/// What things with a shape have in common.
template <class Thing> Row shapedRow(const Level& level, const Thing& thing)
{
    Row row{level.id.text, thing.id.text, thing.name};
    addPlace(row, thing.at);
    const Solid solid(thing.shape, frameAt(thing.at, thing.heading_deg));
    const auto [low, high] = solid.box();
    row.insert(row.end(), {csvNumber(thing.heading_deg), csvNumber(solid.volume_m3())});
    addPlace(row, low);
    addPlace(row, high);
    return row;
}

const Row& shapedColumns()
{
    static const Row columns{"level",     "id",         "name",        "east_m",   "north_m",    "up_m",        "heading_deg",
                             "volume_m3", "box_west_m", "box_south_m", "bottom_m", "box_east_m", "box_north_m", "top_m"};
    return columns;
}

CsvTable zonesOf(const Project& project)
{
    CsvTable table{"zones", shapedColumns(), {}};
    table.columns.insert(table.columns.end(), {"parent", "margin_m"});
    for (const auto& level : project.levels) {
        for (const auto& zone : level->zones) {
            Row row = shapedRow(*level, *zone);
            row.insert(row.end(), {zone->parent.text, csvNumber(zone->margin_m)});
            table.rows.push_back(std::move(row));
        }
    }
    return table;
}

CsvTable roomsOf(const Project& project)
{
    CsvTable table{"rooms", shapedColumns(), {}};
    table.columns.insert(table.columns.end(),
                         {"reverb", "rt60_63hz_s", "rt60_125hz_s", "rt60_250hz_s", "rt60_500hz_s", "rt60_1khz_s", "rt60_2khz_s",
                          "rt60_4khz_s", "rt60_8khz_s", "pre_delay_ms", "early_db", "late_db", "width"});
    for (const auto& level : project.levels) {
        for (const auto& room : level->rooms) {
            Row row = shapedRow(*level, *room);
            row.push_back(words(room->reverb.on));
            for (const double seconds : room->reverb.rt60_s) {
                row.push_back(csvNumber(seconds));
            }
            row.insert(row.end(), {csvNumber(room->reverb.preDelay_ms), csvNumber(room->reverb.early_db),
                                   csvNumber(room->reverb.late_db), csvNumber(room->reverb.width)});
            table.rows.push_back(std::move(row));
        }
    }
    return table;
}

CsvTable openingsOf(const Project& project)
{
    CsvTable table{"openings",
                   {"level", "id", "name", "from_east_m", "from_north_m", "to_east_m", "to_north_m", "sill_m", "head_m", "open",
                    "follows", "opens_on", "closes_on"},
                   {}};
    for (const auto& level : project.levels) {
        for (const auto& opening : level->openings) {
            table.rows.push_back({level->id.text, opening->id.text, opening->name, csvNumber(opening->from.x),
                                  csvNumber(opening->from.y), csvNumber(opening->to.x), csvNumber(opening->to.y),
                                  csvNumber(opening->sill_m), csvNumber(opening->head_m), csvNumber(opening->open),
                                  opening->follows.text, opening->opensOn.text, opening->closesOn.text});
        }
    }
    return table;
}

CsvTable walksOf(const Project& project)
{
    CsvTable table{"walks", {"level", "id", "name", "t_s", "east_m", "north_m", "up_m", "heading_deg", "pitch_deg"}, {}};
    for (const auto& level : project.levels) {
        for (const auto& walk : level->walks) {
            for (const WalkPoint& point : walk->points) {
                Row row{level->id.text, walk->id.text, walk->name, csvNumber(point.t_s)};
                addPlace(row, point.at);
                row.insert(row.end(),
                           {point.heading_deg ? csvNumber(*point.heading_deg) : std::string(), csvNumber(point.pitch_deg)});
                table.rows.push_back(std::move(row));
            }
        }
    }
    return table;
}

CsvTable soundsOf(const Project& project)
{
    CsvTable table{
        "sounds", {"id", "name", "folder", "make", "loop", "level_db", "file", "file_level_db", "author", "licence"}, {}};
    for (const auto& sound : project.sounds) {
        const std::string make = toJson(*sound).value("make", "one");
        for (const SoundFile& file : sound->files) {
            table.rows.push_back({sound->id.text, sound->name, sound->folder, make, words(sound->loop),
                                  csvNumber(sound->level_db), file.file, csvNumber(file.level_db), file.credit.author,
                                  file.credit.licence});
        }
    }
    return table;
}

CsvTable postsOf(const Project& project)
{
    CsvTable table{
        "posts", {"level", "id", "name", "expects", "walk", "zone", "east_m", "north_m", "up_m", "reason", "on"}, {}};
    for (const auto& level : project.levels) {
        for (const auto& post : level->posts) {
            Row row{level->id.text, post->id.text, post->name, expectationOf(*level, *post), post->walk.text, post->zone.text};
            if (post->where == Post::Where::spot) {
                addPlace(row, post->at);
            } else {
                row.resize(row.size() + 3);
            }
            row.insert(row.end(), {post->reason, words(post->on)});
            table.rows.push_back(std::move(row));
        }
    }
    return table;
}

} // namespace

std::vector<CsvTable> tablesOf(const std::shared_ptr<const Project>& document,
                               const std::vector<std::shared_ptr<const Ground>>& grounds)
{
    const Project& project = *document;
    std::vector<std::shared_ptr<const Planted>> levels;
    for (std::size_t i = 0; i < project.levels.size(); ++i) {
        levels.push_back(plant(document, project.levels[i]->id, i < grounds.size() ? grounds[i] : nullptr, Ways::find));
    }
    return {emittersOf(levels),  falloffsOf(project), zonesOf(project),  roomsOf(project),
            openingsOf(project), walksOf(project),    soundsOf(project), postsOf(project)};
}

} // namespace stone
