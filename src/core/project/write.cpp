#include "project/write.h"

#include "project/ambience_json.h"
#include "project/atomic_file.h"
#include "project/emitter_json.h"
#include "project/gaze_json.h"
#include "project/lane_json.h"
#include "project/material_json.h"
#include "project/read.h"
#include "project/rig_json.h"
#include "project/room_json.h"
#include "project/sound_json.h"
#include "project/starting_json.h"

#include <algorithm>

namespace stone
{

namespace
{

Json place(const Vec3& at)
{
    return Json::array({at.x, at.y, at.z});
}

Json toJson(const Walk& walk)
{
    Json json{{"id", walk.id.text}, {"name", walk.name}, {"points", Json::array()}};
    for (const WalkPoint& point : walk.points) {
        Json moment{{"t_s", point.t_s}, {"at", place(point.at)}};
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
    addExtras(json, walk.extras);
    return json;
}

Json toJson(const Geometry& geometry)
{
    Json json = Json::object();
    if (const auto* file = std::get_if<GeometryFile>(&geometry)) {
        json["file"] = file->file;
        addUnless(json, "up", std::string(file->up == UpAxis::y ? "y" : "z"), std::string("y"));
        addExtras(json, file->extras);
    } else if (const auto* picture = std::get_if<GeometryPicture>(&geometry)) {
        json["picture"] = picture->file;
        json["width_m"] = picture->width_m;
        json["at"] = Json::array({picture->at.x, picture->at.y});
        addExtras(json, picture->extras);
    }
    return json;
}

/// Lists that came later than the first documents are written only where there is something in them.
template <class Thing> void addList(Json& json, const char* key, const List<Thing>& things)
{
    for (const auto& thing : things) {
        json[key].push_back(toJson(*thing));
    }
}

Json toJson(const Level& level)
{
    Json json{{"id", level.id.text}, {"name", level.name}};
    if (!std::holds_alternative<std::monostate>(level.geometry)) {
        json["geometry"] = toJson(level.geometry);
    }
    json["metres_per_unit"] = level.metresPerUnit;
    const Character& character = level.character;
    json["character"] = {{"at", place(character.start)},
                         {"heading_deg", character.heading_deg},
                         {"ears_height_m", character.earsHeight_m},
                         {"speed_m_s", character.speed_m_s},
                         {"collides", character.collides}};
    addExtras(json["character"], character.extras);
    json["storeys"] = Json::array();
    for (const Storey& storey : level.storeys) {
        Json item{{"name", storey.name}, {"floor_m", storey.floor_m}, {"cut_m", storey.cut_m}};
        addExtras(item, storey.extras);
        json["storeys"].push_back(std::move(item));
    }
    json["emitters"] = Json::array();
    for (const auto& emitter : level.emitters) {
        json["emitters"].push_back(toJson(*emitter));
    }
    addList(json, "zones", level.zones);
    addList(json, "rooms", level.rooms);
    addList(json, "openings", level.openings);
    if (!(level.outside == Outside{})) {
        json["outside"] = toJson(level.outside);
    }
    json["walks"] = Json::array();
    for (const auto& walk : level.walks) {
        json["walks"].push_back(toJson(*walk));
    }
    json["places"] = Json::array();
    for (const Place& saved : level.places) {
        Json item{{"name", saved.name}, {"at", place(saved.at)}, {"heading_deg", saved.heading_deg}};
        addExtras(item, saved.extras);
        json["places"].push_back(std::move(item));
    }
    addExtras(json, level.extras);
    return json;
}

Json toJson(const Project& project)
{
    Json json{{"stone_echo", documentVersion}, {"name", project.name}};
    addUnless(json, "subtitle", project.subtitle, std::string{});
    json["seed"] = project.seed;
    json["voices"] = project.voices;
    if (!(project.air == Air{})) {
        json["air"] = {{"temperature_c", project.air.temperature_c},
                       {"humidity_pct", project.air.humidity_pct},
                       {"pressure_kpa", project.air.pressure_kpa}};
        addExtras(json["air"], project.air.extras);
    }
    json["sounds"] = Json::array();
    for (const auto& sound : project.sounds) {
        json["sounds"].push_back(toJson(*sound));
    }
    json["falloffs"] = Json::array();
    for (const auto& falloff : project.falloffs) {
        json["falloffs"].push_back(toJson(*falloff));
    }
    addList(json, "families", project.families);
    addList(json, "patterns", project.patterns);
    addList(json, "game_values", project.gameValues);
    addList(json, "signals", project.signalNames);
    addList(json, "rigs", project.rigs);
    addUnless(json, "rig", project.rig.text, std::string{});
    if (!(project.counting == Counting{})) {
        json["counting"] = toJson(project.counting);
    }
    for (const Material& material : project.materials) {
        json["materials"].push_back(toJson(material));
    }
    for (const SurfaceUse& use : project.surfaces) {
        json["surfaces"].push_back(toJson(use));
    }
    if (!(project.occlusion == Occlusion{})) {
        json["occlusion"] = toJson(project.occlusion);
    }
    addList(json, "gazes", project.gazes);
    json["levels"] = Json::array();
    for (const auto& level : project.levels) {
        json["levels"].push_back(toJson(*level));
    }
    addExtras(json, project.extras);
    return json;
}

/// Lays JSON out with lists of plain values on one line and everything else a line each.
void layOut(const Json& json, int indent, std::string& out)
{
    const auto scalar = [](const Json& value) { return !value.is_structured(); };
    if (scalar(json) || json.empty() || (json.is_array() && std::all_of(json.begin(), json.end(), scalar))) {
        std::string line = json.dump(-1, ' ', false, Json::error_handler_t::replace);
        if (json.is_array()) {
            line = "[";
            for (std::size_t i = 0; i < json.size(); ++i) {
                line += (i > 0 ? ", " : "") + json[i].dump(-1, ' ', false, Json::error_handler_t::replace);
            }
            line += ']';
        }
        out += line;
        return;
    }
    const std::string margin(static_cast<std::size_t>(indent) + 2, ' ');
    out += json.is_array() ? "[\n" : "{\n";
    std::size_t left = json.size();
    for (const auto& [key, value] : json.items()) {
        out += margin;
        if (json.is_object()) {
            out += Json(key).dump(-1, ' ', false, Json::error_handler_t::replace) + ": ";
        }
        layOut(value, indent + 2, out);
        out += --left > 0 ? ",\n" : "\n";
    }
    out += std::string(static_cast<std::size_t>(indent), ' ') + (json.is_array() ? ']' : '}');
}

} // namespace

std::string projectText(const Project& project)
{
    std::string text;
    layOut(toJson(project), 0, text);
    text += '\n';
    return text;
}

void writeProjectFile(const Project& project, const std::filesystem::path& document)
{
    writeAtomically(document, projectText(project));
}

} // namespace stone
