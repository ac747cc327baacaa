// SPDX-License-Identifier: MPL-2.0
#include "project/emitter_json.h"

#include "project/ambience_json.h"
#include "project/edit.h"
#include "project/fields.h"
#include "project/lane_json.h"
#include "project/limit_json.h"
#include "project/material_json.h"

namespace stone
{

namespace
{

constexpr const char* emitterKinds[] = {"point", "bed", "area", "sprinkle", "roamer", "steps", "pulse"};
constexpr const char* priorities[] = {"background", "ordinary", "notable", "vital"};
constexpr const char* channelUses[] = {"undecided", "mid", "equal_power", "left", "right", "image"};

} // namespace

template <class Io> void describe(Io io, const Placement&)
{
    io.number("in_world", &Placement::inWorld, ranges::share);
    io.number("ears_azimuth_deg", &Placement::earsAzimuth_deg, ranges::angle);
    io.number("ears_elevation_deg", &Placement::earsElevation_deg, {-90.0, 90.0});
    io.number("spread_deg", &Placement::spread_deg, {0.0, 360.0});
    io.number("near_range_m", &Placement::nearRange_m, ranges::length);
    io.word("channels", &Placement::channels, channelUses);
    io.number("image_deg", &Placement::image_deg, {0.0, 360.0});
    io.flag("image_turns", &Placement::imageTurns);
    io.flag("image_in_world", &Placement::imageInWorld);
    io.flag("rooms_answer", &Placement::roomsAnswer);
    io.number("doppler", &Placement::doppler, {0.0, 10.0});
    io.number("doppler_limit_st", &Placement::dopplerLimit_st, {0.1, 48.0});
    io.flag("air", &Placement::air);
}

/// The plain numbers of an emitter's settings. Each can be a copy's own, so addSettings() writes them one by one.
template <class Io> void describe(Io io, const EmitterSettings&)
{
    io.number("level_db", &EmitterSettings::level_db, ranges::level_db);
    io.number("pitch_st", &EmitterSettings::pitch_st, ranges::semitones);
    io.number("start_after_s", &EmitterSettings::startAfter_s, ranges::seconds);
}

template <class Io> void describe(Io io, const Emitter&)
{
    io.number("heading_deg", &Emitter::heading_deg, ranges::degrees);
    io.number("tilt_deg", &Emitter::tilt_deg, {-90.0, 90.0});
}

template <class Io> void describe(Io io, const Family&)
{
    io.number("level_db", &Family::level_db, ranges::level_db);
    io.number("low_pass_hz", &Family::lowPass_hz, ranges::cutoff_hz);
    io.number("high_pass_hz", &Family::highPass_hz, ranges::cutoff_hz);
    io.number("reach_factor", &Family::reachFactor, {0.001, 1000.0});
    io.flag("muted", &Family::muted);
}

namespace
{

Placement readPlacement(ObjectReader reader)
{
    Placement placement;
    describe(FieldReader(reader, placement), placement);
    if (reader.has("ears_speaker")) {
        placement.earsSpeaker = loudspeakers[reader.word("ears_speaker", 0, loudspeakers)];
    }
    placement.extras = reader.rest();
    return placement;
}

Json toJson(const Placement& placement)
{
    Json json = Json::object();
    describe(FieldWriter(json, placement), placement);
    addUnless(json, "ears_speaker", placement.earsSpeaker, std::string{});
    addExtras(json, placement.extras);
    return json;
}

std::vector<Lane> readLanes(ObjectReader& reader, const SteeringReferences& references)
{
    std::vector<Lane> lanes;
    reader.each("lanes", [&](ObjectReader& item) {
        Lane lane = readLane(item);
        if (lane.over == LaneInput::distance) {
            item.fail("over", "lanes over distance belong to a falloff; put this one into the falloff's \"lanes\"");
        }
        if (lane.property == LaneProperty::nearness) {
            item.fail("property", "nearness belongs to a gaze or a family; put this lane into the \"lanes\" of one");
        }
        if (lane.over == LaneInput::gaze) {
            item.fail("over", "lanes over the gaze belong to a gaze; put this one into the \"lanes\" of one of the \"gazes\"");
        }
        if (lane.over == LaneInput::time) {
            item.fail("over", "lanes over time belong to a sound; put this one into the sound's \"lanes\"");
        }
        lane.value = references.value(lane.value.text);
        for (const Lane& other : lanes) {
            if (other.property == lane.property && other.over == lane.over && other.value == lane.value) {
                item.fail("property", "an emitter draws each property once over each input; merge the two lanes");
            }
        }
        lanes.push_back(std::move(lane));
    });
    return lanes;
}

} // namespace

template <> Range rangeOf(double Placement::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double EmitterSettings::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Emitter::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Family::*member)
{
    return describedRange(member);
}

const char* wordOf(EmitterKind kind)
{
    return emitterKinds[static_cast<std::size_t>(kind)];
}

SettingSet readSettings(ObjectReader& reader, const References& references, EmitterSettings& settings)
{
    SettingSet own;
    const auto given = [&](Setting setting, const char* key) {
        const bool there = reader.has(key);
        own[static_cast<std::size_t>(setting)] = own[static_cast<std::size_t>(setting)] || there;
        return there;
    };
    if (given(Setting::kind, "kind")) {
        settings.kind = static_cast<EmitterKind>(reader.word("kind", 0, emitterKinds));
    }
    if (given(Setting::sound, "sound")) {
        settings.sound = references.sound(reader.text("sound"));
    }
    const bool shared = given(Setting::falloff, "falloff");
    if (given(Setting::falloff, "own_falloff")) {
        ObjectReader inner = reader.object("own_falloff");
        Falloff falloff;
        falloff.name = inner.text("name");
        readFalloffLanes(inner, falloff);
        settings.falloff = std::move(falloff);
    } else if (shared) {
        settings.falloff = references.falloff(reader.text("falloff"));
    }
    given(Setting::level, "level_db");
    given(Setting::pitch, "pitch_st");
    given(Setting::start, "start_after_s");
    describe(FieldReader(reader, settings), settings);
    if (given(Setting::family, "family")) {
        settings.family = references.family(reader.text("family"));
    }
    if (given(Setting::priority, "priority")) {
        settings.priority = reader.text("priority").empty()
                                ? std::nullopt
                                : std::optional(static_cast<Priority>(reader.word("priority", 1, priorities)));
    }
    if (given(Setting::lanes, "lanes")) {
        settings.lanes = readLanes(reader, references.steering);
    }
    if (given(Setting::placement, "placement")) {
        settings.placement = readPlacement(reader.object("placement"));
    }
    if (given(Setting::start, "starting")) {
        settings.starting = readStarting(reader.object("starting"), references.steering);
    }
    if (given(Setting::zone, "zone")) {
        settings.zone = references.steering.zone(reader.text("zone"));
    }
    if (given(Setting::area, "area")) {
        settings.area = readArea(reader.object("area"));
    }
    if (given(Setting::sprinkling, "sprinkle")) {
        settings.sprinkling = readSprinkling(reader.object("sprinkle"), references.sound);
    }
    if (given(Setting::roaming, "roamer")) {
        settings.roaming = readRoaming(reader.object("roamer"), references.sound);
    }
    if (given(Setting::screening, "walls")) {
        settings.screening = readScreening(reader.object("walls"));
    }
    if (given(Setting::stepping, "steps")) {
        settings.stepping = readStepping(reader.object("steps"), references.sound);
    }
    if (given(Setting::pulsing, "pulse")) {
        settings.pulsing = readPulsing(reader.object("pulse"), references.sound);
    }
    return own;
}

void addSettings(Json& json, const EmitterSettings& settings, SettingSet which, SettingSet always)
{
    const EmitterSettings usual;
    const auto written = [&](Setting setting, bool differs) {
        const auto bit = static_cast<std::size_t>(setting);
        return which[bit] && (differs || always[bit]);
    };
    if (written(Setting::kind, true)) {
        json["kind"] = emitterKinds[static_cast<std::size_t>(settings.kind)];
    }
    if (written(Setting::sound, true)) {
        json["sound"] = settings.sound.text;
    }
    if (const auto* own = std::get_if<Falloff>(&settings.falloff)) {
        if (written(Setting::falloff, true)) {
            json["own_falloff"] = toJson(*own);
        }
    } else if (written(Setting::falloff, !std::get<FalloffId>(settings.falloff).empty())) {
        json["falloff"] = std::get<FalloffId>(settings.falloff).text;
    }
    if (written(Setting::level, true)) {
        json["level_db"] = settings.level_db;
    }
    if (written(Setting::pitch, settings.pitch_st != usual.pitch_st)) {
        json["pitch_st"] = settings.pitch_st;
    }
    if (written(Setting::start, settings.startAfter_s != usual.startAfter_s)) {
        json["start_after_s"] = settings.startAfter_s;
    }
    if (written(Setting::start, !(settings.starting == usual.starting))) {
        json["starting"] = toJson(settings.starting);
    }
    if (written(Setting::family, !settings.family.empty())) {
        json["family"] = settings.family.text;
    }
    if (written(Setting::priority, settings.priority.has_value())) {
        json["priority"] = settings.priority ? priorities[static_cast<std::size_t>(*settings.priority)] : "";
    }
    if (written(Setting::lanes, !settings.lanes.empty())) {
        json["lanes"] = Json::array();
        for (const Lane& lane : settings.lanes) {
            json["lanes"].push_back(toJson(lane));
        }
    }
    if (written(Setting::placement, !(settings.placement == usual.placement))) {
        json["placement"] = toJson(settings.placement);
    }
    if (written(Setting::zone, !settings.zone.empty())) {
        json["zone"] = settings.zone.text;
    }
    if (written(Setting::area, !(settings.area == usual.area))) {
        json["area"] = toJson(settings.area);
    }
    if (written(Setting::sprinkling, !(settings.sprinkling == usual.sprinkling))) {
        json["sprinkle"] = toJson(settings.sprinkling);
    }
    if (written(Setting::roaming, !(settings.roaming == usual.roaming))) {
        json["roamer"] = toJson(settings.roaming);
    }
    if (written(Setting::screening, !(settings.screening == usual.screening))) {
        json["walls"] = toJson(settings.screening);
    }
    if (written(Setting::stepping, !(settings.stepping == usual.stepping))) {
        json["steps"] = toJson(settings.stepping);
    }
    if (written(Setting::pulsing, !(settings.pulsing == usual.pulsing))) {
        json["pulse"] = toJson(settings.pulsing);
    }
}

Json toJson(const Emitter& emitter)
{
    Json json{{"id", emitter.id.text}, {"name", emitter.name}};
    const bool copy = !emitter.pattern.empty();
    addUnless(json, "pattern", emitter.pattern.text, std::string{});
    json["at"] = Json::array({emitter.at.x, emitter.at.y, emitter.at.z});
    describe(FieldWriter(json, emitter), emitter);
    if (!(emitter.riding == Riding{})) {
        json["riding"] = toJson(emitter.riding);
    }
    addSettings(json, emitter, copy ? emitter.own : SettingSet{}.set(), copy ? emitter.own : SettingSet{});
    addUnless(json, "muted", emitter.muted, false);
    addExtras(json, emitter.extras);
    return json;
}

Json toJson(const Pattern& pattern)
{
    Json json{{"id", pattern.id.text}, {"name", pattern.name}};
    addSettings(json, pattern.settings, SettingSet{}.set(), {});
    addExtras(json, pattern.extras);
    return json;
}

Json toJson(const Family& family)
{
    Json json{{"id", family.id.text}, {"name", family.name}};
    describe(FieldWriter(json, family), family);
    for (const Lane& lane : family.lanes) {
        json["lanes"].push_back(toJson(lane));
    }
    if (!family.otherFalloff.empty()) {
        json["other_falloff"] = family.otherFalloff.text;
        json["other_when"] = toJson(family.otherWhen);
    }
    addLimit(json, family.limit);
    if (family.priority) {
        json["priority"] = priorities[static_cast<std::size_t>(*family.priority)];
    }
    addExtras(json, family.extras);
    return json;
}

void readPose(ObjectReader& reader, Emitter& emitter)
{
    describe(FieldReader(reader, emitter), emitter);
}

void dropSolo(ObjectReader& reader)
{
    reader.drop("solo", "solo is only for listening and not part of a project any more");
}

void readFamily(ObjectReader& reader, Family& family, const SteeringReferences& references)
{
    describe(FieldReader(reader, family), family);
    reader.each("lanes", [&](ObjectReader& item) {
        Lane lane = readLane(item);
        const bool known = lane.property == LaneProperty::level || lane.property == LaneProperty::lowPass ||
                           lane.property == LaneProperty::highPass || lane.property == LaneProperty::nearness;
        if (lane.over != LaneInput::gameValue || !known) {
            item.fail("property", "a family's lanes draw level, low_pass, high_pass or nearness over game_value; put this one "
                                  "under its emitters");
        }
        lane.value = references.value(lane.value.text);
        family.lanes.push_back(std::move(lane));
    });
    family.otherFalloff.text = reader.text("other_falloff");
    if (reader.has("other_when")) {
        family.otherWhen = readCondition(reader.object("other_when"), references);
    }
    readLimit(reader, family.limit);
    dropSolo(reader);
    if (reader.has("priority")) {
        family.priority = static_cast<Priority>(reader.word("priority", 1, priorities));
    }
    family.extras = reader.rest();
}

} // namespace stone
