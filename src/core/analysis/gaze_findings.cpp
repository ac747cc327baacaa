// SPDX-License-Identifier: MPL-2.0
#include "analysis/gaze_findings.h"

#include "acoustics/lane.h"
#include "analysis/remedies.h"
#include "analysis/words.h"
#include "project/edit.h"
#include "world/gazing.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

/// A change by more than `stroke_db` within `narrow_deg` is a switch, unless time takes the edge off it.
constexpr double stroke_db = 6.0;
constexpr double narrow_deg = 6.0;
constexpr double quick_s = 0.1;
/// What must always be heard may lose so much at most.
constexpr double vitalLoss_db = -3.0;

Remedy changed(const std::string& label, const Gaze& gaze, std::function<void(Gaze&)> change)
{
    return onThing<Gaze>(label, &Project::gazes, gaze.id, std::move(change));
}

double levelAt(const Gaze& gaze, double off_deg)
{
    double level_db = 0.0;
    for (const Lane& lane : gaze.lanes) {
        if (lane.on && lane.property == LaneProperty::level) {
            level_db += laneAt(lane, off_deg);
        }
    }
    return level_db;
}

void lookAt(const Project& project, const Gaze& gaze, std::vector<Finding>& found)
{
    const auto add = [&](const char* code, Severity severity, const std::string& what, const std::string& fix,
                         std::vector<Remedy> remedies) -> Finding& {
        found.push_back({.code = code,
                         .severity = severity,
                         .what = "gaze " + quoted(gaze.name) + ": " + what,
                         .where = "gaze " + quoted(gaze.name),
                         .fix = fix,
                         .remedies = std::move(remedies)});
        return found.back();
    };
    const bool any = std::any_of(gaze.lanes.begin(), gaze.lanes.end(), [](const Lane& lane) { return lane.on; });
    if (!any) {
        add("gaze-idle", Severity::note, "it has no lane, so looking changes nothing",
            "give it a lane for level, nearness or priority", {});
    }
    const auto gone = [&](const std::string& what) {
        add("gaze-gone", Severity::warning, what + " that it refers to is gone", "choose another, or let it count always",
            {changed("It counts always", gaze, [](Gaze& g) { g.when = Gaze::When::always; })});
    };
    const auto hasZone = [&](const auto& level) { return level->zones.find(gaze.zone) != nullptr; };
    if (gaze.when == Gaze::When::signal && project.signalNames.find(gaze.from) == nullptr) {
        gone("the signal");
    } else if (gaze.when == Gaze::When::zone && std::none_of(project.levels.begin(), project.levels.end(), hasZone)) {
        gone("the zone");
    }
    double steepest_db = 0.0;
    for (double off = 0.0; off + narrow_deg <= 180.0; off += narrow_deg / 4.0) {
        steepest_db = std::max(steepest_db, std::abs(levelAt(gaze, off + narrow_deg) - levelAt(gaze, off)));
    }
    if (steepest_db > stroke_db && std::min(gaze.rise_s, gaze.fall_s) < quick_s) {
        add("gaze-narrow", Severity::warning,
            "the level changes by " + number("%.0f dB", steepest_db) + " within " + number("%.0f", narrow_deg) +
                " degrees and at once: turning the head switches sounds on and off",
            "let it follow more slowly, or widen the angles",
            {changed("Follow within a quarter of a second", gaze, [](Gaze& g) {
                g.rise_s = std::max(g.rise_s, 0.25);
                g.fall_s = std::max(g.fall_s, 0.25);
            })});
    }
    double least_db = 0.0;
    for (double off = 0.0; off <= 180.0; off += 5.0) {
        least_db = std::min(least_db, levelAt(gaze, off));
    }
    for (const auto& level : project.levels) {
        for (const auto& emitter : level->emitters) {
            if (least_db < vitalLoss_db && priorityOf(project, *emitter) == Priority::vital && isFor(gaze, *emitter)) {
                Finding& finding =
                    add("gaze-vital", Severity::warning,
                        quoted(emitter->name) + " must always be heard, yet it loses " + number("%.0f dB", -least_db) +
                            " when nobody looks at it",
                        "exempt it", {changed("Exempt it", gaze, [id = emitter->id](Gaze& g) { g.exempt.push_back(id); })});
                finding.level = level->id;
                finding.emitter = emitter->id;
            }
        }
    }
}

} // namespace

void findInGazes(const Project& project, std::vector<Finding>& found)
{
    for (const auto& gaze : project.gazes) {
        if (gaze->on) {
            lookAt(project, *gaze, found);
        }
    }
}

} // namespace stone
