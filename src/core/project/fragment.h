// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <set>

namespace stone
{

/// Things of one level by their ids.
struct LevelThings {
    std::set<EmitterId> emitters{};
    std::set<ZoneId> zones{};
    std::set<RoomId> rooms{};
    std::set<OpeningId> openings{};
    std::set<WalkId> walks{};
    std::set<PostId> posts{};
    std::set<PlantId> plants{};

    bool operator==(const LevelThings&) const = default;
};

/// A document of its own with nothing but some things of a level, and all of the project that they need: sounds, falloffs,
/// families, patterns, signals, game values, materials. It is named as the project, so that it is known where it comes from.
/// What can be copied so can be written and read like any document.
Project fragmentOf(const Project& project, const LevelId& level, const LevelThings& things);

struct Pasted {
    Project project;
    LevelThings things;          ///< what came into the level, by their new ids
    std::vector<SoundId> sounds; ///< that were not in the project before
};

/// Puts all things of a fragment's first level into a level. They get ids and names unlike those that are there, and go on
/// referring to each other. What they need of the project is taken from it where it has the same (equal, or in the same project
/// under the same id), else comes along. The project must have the level.
Pasted withFragment(Project into, const LevelId& level, const Project& fragment);

} // namespace stone
