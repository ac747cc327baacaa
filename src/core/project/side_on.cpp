// SPDX-License-Identifier: MPL-2.0
#include "project/side_on.h"

#include "project/edit.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

bool looksInto(const Rig& rig, Looking looking)
{
    constexpr double alike_deg = 0.5;
    return rig.kind == Rig::Kind::sideOn && std::abs(wrapDegrees(rig.heading_deg - headingInto(looking))) < alike_deg;
}

} // namespace

bool listensInto(const Project& project, Looking looking)
{
    const Rig* rig = project.rigs.find(project.rig);
    return rig != nullptr && looksInto(*rig, looking) && rig->facing == Rig::Facing::camera;
}

Project heardSideOn(Project project, Looking looking, bool into)
{
    const auto facing = into ? Rig::Facing::camera : Rig::Facing::character;
    const auto found = std::find_if(project.rigs.begin(), project.rigs.end(),
                                    [&](const auto& rig) { return looksInto(*rig, looking) && rig->facing == facing; });
    if (found != project.rigs.end()) {
        project.rig = (*found)->id;
        return project;
    }
    Rig rig;
    rig.name = into ? "From the side, into the picture" : "From the side, as it faces";
    rig.id = project.rigs.freshId(rig.name);
    rig.kind = Rig::Kind::sideOn;
    rig.heading_deg = headingInto(looking);
    rig.facing = facing;
    project.rig = rig.id;
    project.rigs.append(std::move(rig));
    return project;
}

Project seenFrom(Project project, const LevelId& level, const std::optional<Looking>& sideOn)
{
    project = withLevel(std::move(project), level, [&](Level& l) {
        l.sideOn = sideOn;
        if (sideOn) {
            l.character.heading_deg = wrapDegrees(headingInto(*sideOn) + 90.0);
        }
    });
    return sideOn ? heardSideOn(std::move(project), *sideOn, true) : project;
}

} // namespace stone
