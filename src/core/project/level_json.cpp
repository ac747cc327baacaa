// SPDX-License-Identifier: MPL-2.0
#include "project/level_json.h"

#include "project/fields.h"

#include <algorithm>

namespace stone
{

namespace
{

constexpr const char* upAxes[] = {"y", "z"};
constexpr const char* characterMoves[] = {"freely", "cells", "directions"};
constexpr const char* sides[] = {"north", "west"}; // by Looking
constexpr double usualCut_m = 1.5;                 ///< above a storey's floor

} // namespace

template <class Io> void describe(Io io, const Air&)
{
    io.number("temperature_c", &Air::temperature_c, {-50.0, 60.0});
    io.number("humidity_pct", &Air::humidity_pct, {0.0, 100.0});
    io.number("pressure_kpa", &Air::pressure_kpa, {10.0, 200.0});
}

template <class Io> void describe(Io io, const GeometryFile&)
{
    io.text("file", &GeometryFile::file);
    io.word("up", &GeometryFile::up, upAxes);
}

template <class Io> void describe(Io io, const GeometryPicture&)
{
    io.text("picture", &GeometryPicture::file);
    io.number("width_m", &GeometryPicture::width_m, ranges::scale);
}

template <class Io> void describe(Io io, const Character&)
{
    io.place("at", &Character::start);
    io.number("heading_deg", &Character::heading_deg, ranges::degrees);
    io.number("ears_height_m", &Character::earsHeight_m, {0.0, 1000.0});
    io.number("speed_m_s", &Character::speed_m_s, {0.01, 100.0});
    io.flag("collides", &Character::collides);
    io.word("moves", &Character::moves, characterMoves);
    io.number("cell_m", &Character::cell_m, {0.1, 100.0});
    io.number("jump_m", &Character::jump_m, {0.0, 100.0});
    io.number("gravity_m_s2", &Character::gravity_m_s2, {0.1, 100.0});
}

template <class Io> void describe(Io io, const EdgeRules&)
{
    io.number("step_m", &EdgeRules::step_m, {0.02, 10.0});
    io.number("kerb_m", &EdgeRules::kerb_m, {0.01, 10.0});
    io.number("stride_m", &EdgeRules::stride_m, {0.1, 5.0});
}

template <class Io> void describe(Io io, const Storey&)
{
    io.number("floor_m", &Storey::floor_m, ranges::metres);
}

template <class Io> void describe(Io io, const Place&)
{
    io.place("at", &Place::at);
    io.number("heading_deg", &Place::heading_deg, ranges::degrees);
}

template <class Io> void describe(Io io, const WalkPoint&)
{
    io.place("at", &WalkPoint::at);
    io.number("pitch_deg", &WalkPoint::pitch_deg, ranges::degrees);
}

template <class Io> void describe(Io io, const GoalRun&)
{
    io.id("goal", &GoalRun::goal);
    io.number("fall_m", &GoalRun::fall_m, {0.0, 1000.0});
    io.id("on_fall", &GoalRun::onFall);
    io.id("on_checkpoint", &GoalRun::onCheckpoint);
    io.id("on_goal", &GoalRun::onGoal);
}

template <class Io> void describe(Io io, const Level&)
{
    io.number("metres_per_unit", &Level::metresPerUnit, ranges::scale);
}

template <> Range rangeOf(double Air::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double GeometryPicture::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Character::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double EdgeRules::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double GoalRun::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Level::*member)
{
    return describedRange(member);
}

Air readAir(ObjectReader reader)
{
    return readThing<Air>(reader);
}

Json toJson(const Air& air)
{
    return jsonOf(air);
}

std::optional<Looking> readSideOn(ObjectReader& reader)
{
    return reader.has("side_on") ? std::optional(static_cast<Looking>(reader.word("side_on", 0, sides))) : std::nullopt;
}

void addSideOn(Json& json, const std::optional<Looking>& sideOn)
{
    if (sideOn) {
        json["side_on"] = sides[static_cast<std::size_t>(*sideOn)];
    }
}

Geometry readGeometry(ObjectReader reader)
{
    if (reader.has("picture")) {
        GeometryPicture picture;
        picture.at = reader.plane("at", picture.at);
        describe(FieldReader(reader, picture), picture);
        picture.extras = reader.rest();
        return picture;
    }
    if (reader.has("file")) {
        return readThing<GeometryFile>(reader);
    }
    return {};
}

Json toJson(const Geometry& geometry)
{
    if (const auto* file = std::get_if<GeometryFile>(&geometry)) {
        Json json = jsonOf(*file);
        json["file"] = file->file;
        return json;
    }
    if (const auto* picture = std::get_if<GeometryPicture>(&geometry)) {
        Json json{{"picture", picture->file}, {"at", Json::array({picture->at.x, picture->at.y})}};
        json.update(jsonOf(*picture));
        return json;
    }
    return Json::object();
}

Character readCharacter(ObjectReader reader)
{
    return readThing<Character>(reader);
}

Json toJson(const Character& character)
{
    return jsonOf(character);
}

EdgeRules readEdgeRules(ObjectReader reader)
{
    EdgeRules rules;
    describe(FieldReader(reader, rules), rules);
    if (rules.kerb_m >= rules.step_m) {
        reader.fail("kerb_m", "a kerb is lower than a step: the least difference has to be below \"step_m\"");
    }
    if (reader.has("water")) {
        rules.water = reader.texts("water");
    }
    rules.extras = reader.rest();
    return rules;
}

Json toJson(const EdgeRules& rules)
{
    Json json = jsonOf(rules);
    addUnless(json, "water", rules.water, EdgeRules{}.water);
    return json;
}

Storey readStorey(ObjectReader& reader)
{
    Storey storey;
    storey.name = reader.text("name", "Storey");
    describe(FieldReader(reader, storey), storey);
    storey.cut_m = reader.number("cut_m", storey.floor_m + usualCut_m, ranges::metres);
    storey.extras = reader.rest();
    return storey;
}

Json toJson(const Storey& storey)
{
    Json json{{"name", storey.name}, {"floor_m", storey.floor_m}, {"cut_m", storey.cut_m}};
    addExtras(json, storey.extras);
    return json;
}

Place readPlace(ObjectReader& reader)
{
    const std::string name = reader.text("name", "Place");
    auto place = readThing<Place>(reader);
    place.name = name;
    return place;
}

Json toJson(const Place& place)
{
    Json json{{"name", place.name}};
    json.update(jsonOf(place));
    return json;
}

namespace
{

GoalRun readGoalRun(ObjectReader reader, const SteeringReferences& references)
{
    GoalRun run;
    describe(FieldReader(reader, run), run);
    run.goal = references.zone(run.goal.text);
    run.onFall = references.signal(run.onFall.text);
    run.onCheckpoint = references.signal(run.onCheckpoint.text);
    run.onGoal = references.signal(run.onGoal.text);
    for (const std::string& zone : reader.texts("checkpoints")) {
        run.checkpoints.push_back(references.zone(zone));
    }
    for (const std::string& zone : reader.texts("pits")) {
        run.pits.push_back(references.zone(zone));
    }
    run.extras = reader.rest();
    return run;
}

Json toJson(const GoalRun& run)
{
    Json json = jsonOf(run);
    for (const ZoneId& zone : run.checkpoints) {
        json["checkpoints"].push_back(zone.text);
    }
    for (const ZoneId& zone : run.pits) {
        json["pits"].push_back(zone.text);
    }
    return json;
}

} // namespace

void readWalk(ObjectReader& reader, Walk& walk, const SteeringReferences& references)
{
    reader.each("points", [&](ObjectReader& item) {
        WalkPoint point;
        const double earliest = walk.points.empty() ? 0.0 : walk.points.back().t_s;
        point.t_s = item.number("t_s", earliest, {earliest, ranges::seconds.most});
        point.at = walk.points.empty() ? Vec3{0.0} : walk.points.back().at; // where "at" is left out, one stays
        describe(FieldReader(item, point), point);
        if (item.has("heading_deg")) {
            point.heading_deg = item.number("heading_deg", 0.0, ranges::degrees);
        }
        point.extras = item.rest();
        walk.points.push_back(std::move(point));
    });
    reader.each("events", [&](ObjectReader& item) { walk.events.push_back(readWalkEvent(item, references)); });
    std::stable_sort(walk.events.begin(), walk.events.end(),
                     [](const WalkEvent& a, const WalkEvent& b) { return a.t_s < b.t_s; });
    if (reader.has("run")) {
        walk.run = readGoalRun(reader.object("run"), references);
    }
    walk.extras = reader.rest();
}

Json toJson(const Walk& walk)
{
    Json json{{"id", walk.id.text}, {"name", walk.name}, {"points", Json::array()}};
    for (const WalkPoint& point : walk.points) {
        Json moment{{"t_s", point.t_s}, {"at", Json::array({point.at.x, point.at.y, point.at.z})}};
        if (point.heading_deg) {
            moment["heading_deg"] = *point.heading_deg;
        }
        addUnless(moment, "pitch_deg", point.pitch_deg, 0.0);
        addExtras(moment, point.extras);
        json["points"].push_back(std::move(moment));
    }
    for (const WalkEvent& event : walk.events) {
        json["events"].push_back(toJson(event));
    }
    if (!(walk.run == GoalRun{})) {
        json["run"] = toJson(walk.run);
    }
    addExtras(json, walk.extras);
    return json;
}

} // namespace stone
