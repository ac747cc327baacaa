// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"
#include "world/planting.h"

#include <nlohmann/json.hpp>

#include <cmath>
#include <cstdio>
#include <iostream>

namespace stone::cli
{

namespace
{

using Json = nlohmann::ordered_json;

Json jsonOf(const PlantedRule& rule)
{
    const auto rounded = [](double x) { return std::round(x * 1e3) / 1e3 + 0.0; };
    Json places = Json::array();
    for (const auto& copy : rule.copies) {
        places.push_back({rounded(copy->at.x), rounded(copy->at.y), rounded(copy->at.z), rounded(copy->heading_deg)});
    }
    Json json{{"name", rule.plant->name}, {"count", rule.copies.size()}, {"left_out", rule.leftOut}};
    if (rule.trouble != PlantTrouble::none) {
        json["trouble"] = wordsOf(rule.trouble);
    }
    json["places"] = std::move(places);
    return json;
}

} // namespace

int plants(const std::string& path, const std::string& levelName, bool json)
{
    const Opened opened = open(path);
    const Level& level = opened.level(levelName);
    const auto planted = plant(opened.project, level.id, opened.ground(level), Ways::find);
    Json rules = Json::array();
    for (const PlantedRule& rule : planted->rules) {
        if (json) {
            rules.push_back(jsonOf(rule));
            continue;
        }
        std::printf("%-34s %6zu", rule.plant->name.c_str(), rule.copies.size());
        if (rule.leftOut > 0) {
            std::printf(", %zu left out", rule.leftOut);
        }
        const std::string trouble = wordsOf(rule.trouble);
        std::printf("%s\n", trouble.empty() ? "" : (": " + trouble).c_str());
    }
    if (json) {
        std::cout << Json{{"rules", rules}}.dump(2) << '\n';
    } else if (planted->rules.empty()) {
        std::printf("no plant rules in the level \"%s\"\n", level.name.c_str());
    }
    return 0;
}

} // namespace stone::cli
