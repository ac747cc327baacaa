// SPDX-License-Identifier: MPL-2.0
#include "analysis/steering_findings.h"

#include "analysis/remedies.h"
#include "analysis/words.h"

namespace stone
{

void findInSteering(const Project& project, std::vector<Finding>& found)
{
    const auto add = [&](const char* code, const std::string& where, const std::string& what, const std::string& fix,
                         Remedy remedy) {
        found.push_back({.code = code,
                         .severity = Finding::Severity::warning,
                         .what = where + what + ", which is gone",
                         .where = where,
                         .fix = fix,
                         .remedies = {std::move(remedy)}});
    };
    for (const auto& value : project.gameValues) {
        const auto look = [&](SignalId GameValue::*signal) {
            const SignalId& on = (*value).*signal;
            if (!on.empty() && project.signalNames.find(on) == nullptr) {
                add("value-signal-gone", "game value " + quoted(value->name), " waits for the signal " + quoted(on.text),
                    "choose another on the pad",
                    onThing<GameValue>("Wait for none", &Project::gameValues, value->id,
                                       [signal](GameValue& v) { v.*signal = {}; }));
            }
        };
        look(&GameValue::mostOn);
        look(&GameValue::restOn);
    }
    for (const auto& family : project.families) {
        const std::string where = "family " + quoted(family->name);
        for (const Lane& lane : family->lanes) {
            if (lane.on && lane.over == LaneInput::gameValue && project.gameValues.find(lane.value) == nullptr) {
                add("family-value-gone", where, " follows the game value " + quoted(lane.value.text),
                    "choose another, or add it on the pad",
                    onThing<Family>("Follow none", &Project::families, family->id, [value = lane.value](Family& f) {
                        std::erase_if(f.lanes, [&](const Lane& one) { return one.value == value; });
                    }));
                break;
            }
        }
        if (family->otherFalloff.empty()) {
            continue;
        }
        const bool falloffGone = project.falloffs.find(family->otherFalloff) == nullptr;
        if (falloffGone || project.gameValues.find(family->otherWhen.value) == nullptr) {
            add("family-falloff-gone", where,
                falloffGone ? " takes the falloff " + quoted(family->otherFalloff.text)
                            : " takes another falloff by the game value " + quoted(family->otherWhen.value.text),
                "choose another", onThing<Family>("Take no other falloff", &Project::families, family->id, [](Family& f) {
                    f.otherFalloff = {};
                }));
        }
    }
}

} // namespace stone
