// SPDX-License-Identifier: GPL-3.0-or-later
#include "follow/follower.h"
#include "project/document.h"

#include <cmath>
#include <cstdlib>

using namespace stone;

namespace
{

/// One follower through all inputs, as one port hears all strangers.
Follower& follower()
{
    static double now_s = 0.0;
    static Follower one([] { return now_s += 0.001; }, [] { return 1.7e9 + now_s; });
    static const bool begun = [] {
        Project project = blankProject();
        project.signalNames.put({{"bell"}, "Bell rings", {}});
        Pattern tram;
        tram.id = {"tram"};
        tram.name = "Tram";
        project.patterns.put(tram);
        one.setDocument(std::make_shared<const Project>(project), project.levels[0]->id);
        return true;
    }();
    static_cast<void>(begun);
    return one;
}

bool finite(const Pose& pose)
{
    return std::isfinite(pose.at.x + pose.at.y + pose.at.z + pose.heading_deg + pose.pitch_deg + pose.roll_deg);
}

} // namespace

/// A packet from a stranger is understood, or counted; what it makes of the character and of things are numbers, and no more
/// than there is room for.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size)
{
    Follower& one = follower();
    one.receive(std::as_bytes(std::span(data, size)));
    const Leader::Step step = one.step(256.0 / 48'000.0);
    if ((step.feet && !finite(*step.feet)) || (step.ears && !finite(*step.ears)) || (step.camera && !finite(*step.camera))) {
        std::abort();
    }
    for (const Happening& happening : step.happenings) {
        if (happening.thing && !finite(happening.thing->second)) {
            std::abort();
        }
    }
    const Follower::Report report = one.report();
    if (report.things > Follower::mostThings || report.unknown.size() > Follower::mostUnknown) {
        std::abort();
    }
    return 0;
}
