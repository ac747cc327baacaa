// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"

#include "analysis/rig_comparison.h"

#include <cstdio>

namespace stone::cli
{

const RigId& rigNamed(const Project& project, const std::string& name)
{
    static const RigId firstPerson;
    std::string all = "\"First person\"";
    for (const auto& rig : project.rigs) {
        if (rig->name == name || rig->id.text == name) {
            return rig->id;
        }
        all += ", \"" + rig->name + '"';
    }
    if (name == "First person") {
        return firstPerson;
    }
    throw UsageError("no rig is called \"" + name + "\" in this project; there are " + all);
}

int compare(const Compare& options)
{
    const Opened opened = open(options.project);
    const Level& level = opened.level(options.level);
    const auto ground = opened.ground(level);
    const auto planted = plant(opened.project, level.id, ground, Ways::find);
    const RigComparison found =
        compareRigs(*opened.project, level.id, ground, walkNamed(level, options.walk), rigNamed(*opened.project, options.first),
                    rigNamed(*opened.project, options.second), {});
    std::printf("%-34s %22s %24s\n", "emitter", "level, most", "direction, most");
    for (const RigComparison::Row& row : found.rows) {
        std::printf("%-34s %+7.1f dB at %6.1f s %+8.0f deg at %6.1f s\n",
                    planted->level().emitters.find(row.emitter)->name.c_str(), row.mostLevel_db, row.mostLevelAt_s,
                    row.mostAzimuth_deg, row.mostAzimuthAt_s);
    }
    return 0;
}

} // namespace stone::cli
