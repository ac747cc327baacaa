// SPDX-License-Identifier: MPL-2.0
#include "analysis/plant_findings.h"

#include "analysis/words.h"
#include "project/edit.h"

#include <algorithm>

namespace stone
{

void findInPlants(const Planted& planted, std::vector<Finding>& found)
{
    for (const PlantedRule& rule : planted.rules) {
        Finding finding;
        finding.severity = Finding::Severity::warning;
        finding.where = "plant rule " + quoted(rule.plant->name);
        finding.level = planted.levelId;
        if (rule.trouble == PlantTrouble::tooMany) {
            finding.code = "plant-too-many";
            finding.what = quoted(rule.plant->name) + " is cut off: " + wordsOf(rule.trouble);
            finding.fix = "let them be farther apart, or plant in a smaller part";
            found.push_back(finding);
        } else if (rule.trouble == PlantTrouble::none
                       ? rule.spots->spots.empty()
                       : rule.trouble != PlantTrouble::off && rule.trouble != PlantTrouble::waits) {
            finding.code = "plant-nothing";
            finding.what = quoted(rule.plant->name) + " plants nothing: " +
                           (rule.trouble == PlantTrouble::none ? "no place is as it asks for" : wordsOf(rule.trouble));
            finding.fix = "change the rule, or delete it";
            found.push_back(finding);
        }
        if (!rule.unmatched.empty()) {
            finding.code = "plant-exceptions";
            finding.severity = Finding::Severity::note;
            finding.what = quoted(rule.plant->name) + " says something of " + std::to_string(rule.unmatched.size()) +
                           " copies that are nowhere any more, of " + quoted(rule.unmatched.front()) + " first";
            finding.fix = "forget what was said of them, or bring their places back";
            finding.remedies = {
                {"Forget them", [level = planted.levelId, id = rule.plant->id, gone = rule.unmatched](Project project) {
                     return withLevel(std::move(project), level, [&](Level& changed) {
                         if (const Plant* known = changed.plants.find(id)) {
                             Plant plant = *known;
                             std::erase_if(plant.exceptions, [&](const OddCopy& one) {
                                 return std::find(gone.begin(), gone.end(), one.copy) != gone.end();
                             });
                             changed.plants.put(std::move(plant));
                         }
                     });
                 }}};
            found.push_back(finding);
        }
    }
}

} // namespace stone
