// SPDX-License-Identifier: MPL-2.0
#include "project/write.h"

#include "project/ambience_json.h"
#include "project/atomic_file.h"
#include "project/document_json.h"
#include "project/emitter_json.h"
#include "project/gaze_json.h"
#include "project/lane_json.h"
#include "project/level_json.h"
#include "project/limit_json.h"
#include "project/material_json.h"
#include "project/plant_json.h"
#include "project/post_json.h"
#include "project/read.h"
#include "project/rig_json.h"
#include "project/room_json.h"
#include "project/sound_json.h"
#include "project/sound_target_json.h"
#include "project/starting_json.h"

#include <algorithm>

namespace stone
{

namespace
{

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
    addSideOn(json, level.sideOn);
    json["character"] = toJson(level.character);
    if (!(level.edges == EdgeRules{})) {
        json["edges"] = toJson(level.edges);
    }
    json["storeys"] = Json::array();
    for (const Storey& storey : level.storeys) {
        json["storeys"].push_back(toJson(storey));
    }
    json["emitters"] = Json::array();
    for (const auto& emitter : level.emitters) {
        json["emitters"].push_back(toJson(*emitter));
    }
    addList(json, "plants", level.plants);
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
    for (const Place& place : level.places) {
        json["places"].push_back(toJson(place));
    }
    addList(json, "posts", level.posts);
    addExtras(json, level.extras);
    return json;
}

} // namespace

Json documentJson(const Project& project)
{
    Json json{{"stone_echo", documentVersion}, {"name", project.name}};
    addUnless(json, "subtitle", project.subtitle, std::string{});
    json["seed"] = project.seed;
    json["voices"] = project.voices;
    if (project.voicesGiveWay != GivesWay::quietest) {
        json["voices_give_way"] = givesWayWords()[static_cast<std::size_t>(project.voicesGiveWay)];
    }
    addUnless(json, "voices_hold_off_s", project.voicesHoldOff_s, 0.0);
    if (!(project.air == Air{})) {
        json["air"] = toJson(project.air);
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
    addList(json, "sound_targets", project.soundTargets);
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

namespace
{

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
    layOut(documentJson(project), 0, text);
    text += '\n';
    return text;
}

void writeProjectFile(const Project& project, const std::filesystem::path& document)
{
    const std::string text = projectText(project);
    // Nothing replaces a file that could not be opened again, whatever went wrong before.
    try {
        if (projectText(readProjectText(text, document.string()).project) != text) {
            throw FileError(document.string() + ": what would be written reads as something else");
        }
    } catch (const FileError& error) {
        throw FileError(std::string("not saved, because it could not be opened again: ") + error.what() +
                        "; the file is as it was. Undo the last steps, or save under another name what can be saved");
    }
    writeAtomically(document, text);
}

} // namespace stone
