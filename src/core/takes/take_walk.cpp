// SPDX-License-Identifier: MPL-2.0
#include "takes/take_walk.h"

#include "world/walk_making.h"

#include <algorithm>
#include <cmath>

namespace stone
{

Walk walkOf(const Take& take, const Project& project)
{
    std::vector<WalkPoint> moments;
    double began_s = 0.0;
    take.eachMoment([&](const TakenMoment& moment) {
        began_s = moments.empty() ? moment.t_s : began_s;
        moments.push_back({.t_s = moment.t_s - began_s,
                           .at = moment.feet.at,
                           .heading_deg = moment.feet.heading_deg,
                           .pitch_deg = moment.feet.pitch_deg});
        return true;
    });
    Walk walk;
    if (moments.size() < 2) {
        return walk;
    }
    walk.points = recordedPoints(moments);
    const auto named = [](const auto& things, const std::string& name) {
        return std::find_if(things.begin(), things.end(), [&](const auto& thing) { return thing->name == name; });
    };
    for (const TakeEvent& event : take.events()) {
        WalkEvent again;
        again.t_s = std::round(std::max(event.t_s - began_s, 0.0) * 1000.0) / 1000.0;
        if (event.kind == TakeEvent::Kind::signal) {
            const auto signal = named(project.signalNames, event.name);
            if (signal == project.signalNames.end()) {
                continue;
            }
            again.kind = WalkEvent::Kind::signal;
            again.signal = (*signal)->id;
        } else if (event.kind == TakeEvent::Kind::value) {
            const auto value = named(project.gameValues, event.name);
            if (value == project.gameValues.end()) {
                continue;
            }
            again.kind = WalkEvent::Kind::value;
            again.value = (*value)->id;
            again.number = event.number;
        } else if (event.kind == TakeEvent::Kind::use) {
            again.kind = WalkEvent::Kind::interact;
        } else {
            continue;
        }
        walk.events.push_back(std::move(again));
    }
    return walk;
}

} // namespace stone
