// SPDX-License-Identifier: MPL-2.0
#include "follow/told_changes.h"

#include "project/emitter_json.h"
#include "project/lane_json.h"

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

namespace stone
{

namespace
{

/// What a thing says, flat: "placement.spread_deg" and its value.
using Properties = std::map<std::string, std::vector<OscValue>>;

std::optional<OscValue> valueOf(const Json& json)
{
    if (json.is_number()) {
        return json.get<double>();
    }
    if (json.is_boolean()) {
        return json.get<bool>() ? 1.0 : 0.0;
    }
    if (json.is_string()) {
        return json.get<std::string>();
    }
    return {};
}

/// Lists of numbers are one property; what else lists say has no name of its own and is left out, but for lanes.
void flatten(const Json& json, const std::string& path, Properties& properties)
{
    if (json.is_object()) {
        for (const auto& [key, value] : json.items()) {
            flatten(value, path.empty() ? key : path + '.' + key, properties);
        }
        return;
    }
    std::vector<OscValue> values;
    const auto add = [&](const Json& one) {
        const auto value = valueOf(one);
        if (value) {
            values.push_back(*value);
        }
        return value.has_value();
    };
    const bool told = json.is_array() ? !json.empty() && std::all_of(json.begin(), json.end(), add) : add(json);
    if (told) {
        properties.emplace(path, std::move(values));
    }
}

/// What its lanes are called: by what they draw, and over what if that is not the distance.
std::string laneName(const Json& lane)
{
    const std::string over = lane.value("over", "distance");
    return lane.value("property", "level") + (over == "distance" ? std::string() : "/" + over);
}

/// Lanes apart: drawn ones as their points, formulas and angles as properties of the lane.
void tellLanes(const Json& lanes, Properties& properties, Properties& drawn)
{
    for (const Json& lane : lanes) {
        const std::string name = laneName(lane);
        Json rest = lane;
        if (const auto curve = rest.find("points"); curve != rest.end()) {
            std::vector<OscValue>& points = drawn[name];
            for (const Json& point : *curve) {
                points.emplace_back(point.at("x").get<double>());
                points.emplace_back(point.at("y").get<double>());
            }
            rest.erase(curve);
        }
        rest.erase("property");
        rest.erase("over");
        flatten(rest, name, properties);
    }
}

struct Told {
    Properties properties;
    Properties lanes;
};

Told told(Json json)
{
    Told all;
    for (const char* key : {"id", "name", "pattern"}) {
        json.erase(key);
    }
    for (const char* owner : {"", "falloff"}) {
        Json* of = *owner == '\0' ? &json : json.contains(owner) && json[owner].is_object() ? &json[owner] : nullptr;
        if (of != nullptr && of->contains("lanes")) {
            tellLanes((*of)["lanes"], all.properties, all.lanes);
            of->erase("lanes");
        }
    }
    flatten(json, {}, all.properties);
    return all;
}

Told told(const Emitter& emitter)
{
    // A copy says all that it sounds by, its pattern's too.
    Emitter whole = emitter;
    whole.pattern = {};
    return told(toJson(whole));
}

Told told(const Falloff& falloff)
{
    return told(toJson(falloff));
}

void tell(const char* address, const std::string& name, const Properties& before, const Properties& now,
          std::vector<OscMessage>& messages)
{
    const auto say = [&](const std::string& property, const std::vector<OscValue>& values) {
        OscMessage message{address, {name, property}};
        message.values.insert(message.values.end(), values.begin(), values.end());
        messages.push_back(std::move(message));
    };
    for (const auto& [property, values] : now) {
        const auto known = before.find(property);
        if (known == before.end() || known->second != values) {
            say(property, values);
        }
    }
    for (const auto& [property, values] : before) {
        if (!now.contains(property)) {
            say(property, {});
        }
    }
}

template <class Thing>
void tellThings(const char* address, const List<Thing>& before, const List<Thing>& now, std::vector<OscMessage>& messages)
{
    for (const auto& thing : now) {
        const auto known = before.share(thing->id);
        if (known == thing) {
            continue;
        }
        const Told then = known ? told(*known) : Told{};
        const Told told_ = told(*thing);
        tell(address, thing->name, then.properties, told_.properties, messages);
        tell("/stone/lane", thing->name, then.lanes, told_.lanes, messages);
    }
}

} // namespace

std::vector<OscMessage> changesTold(const Project& before, const Project& now, const LevelId& level)
{
    std::vector<OscMessage> messages;
    tellThings("/stone/falloff", before.falloffs, now.falloffs, messages);
    const Level* then = before.levels.find(level);
    const Level* is = now.levels.find(level);
    if (then != nullptr && is != nullptr) {
        tellThings("/stone/emitter", then->emitters, is->emitters, messages);
    }
    return messages;
}

std::vector<OscMessage> heardTold(const Level& level, std::span<const Heard> heard)
{
    std::map<std::uint32_t, double> loudest;
    for (const Heard& one : heard) {
        double& level_db = loudest.emplace(one.index, one.level_db).first->second;
        level_db = std::max(level_db, one.level_db);
    }
    std::vector<std::pair<double, std::uint32_t>> ordered;
    for (const auto& [index, level_db] : loudest) {
        if (level_db >= leastHeardTold_db) {
            ordered.emplace_back(-level_db, index);
        }
    }
    std::sort(ordered.begin(), ordered.end());
    ordered.resize(std::min(ordered.size(), mostHeardTold));
    std::vector<OscMessage> told;
    std::transform(ordered.begin(), ordered.end(), std::back_inserter(told), [&](const auto& one) {
        return OscMessage{"/stone/heard", {level.emitters[one.second]->name, -one.first}};
    });
    return told;
}

} // namespace stone
