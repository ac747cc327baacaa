// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/settings.h"

#include <functional>

/// Edits as functions from a document to a new one. They refer to things by id and leave the document as it was when
/// the thing is gone. Anything they do not touch stays shared with the old document.
namespace stone
{

/// The falloff that an emitter uses: its own, the shared one, or the default formula when the reference leads nowhere.
const Falloff& falloffOf(const Project& project, const Emitter& emitter);

/// How many emitters, over all levels, use a shared falloff. Beds that sound everywhere are nowhere far off and do not count.
int usersOf(const Project& project, const FalloffId& id);

/// The level with this id, else the first one, else null.
const Level* levelOrFirst(const Project& project, const LevelId& id);

/// Replaces a level by what `change` makes of it.
Project withLevel(Project project, const LevelId& id, const std::function<void(Level&)>& change);

/// Replaces an emitter by what `change` makes of it. A setting of a pattern's copy that this changes is from then on the
/// copy's own.
Project withEmitter(Project project, const LevelId& levelId, const EmitterId& id, const std::function<void(Emitter&)>& change);

/// Replaces the falloff that an emitter uses, wherever it lives: a shared one changes for all its users.
Project withFalloff(Project project, const LevelId& levelId, const EmitterId& id, Falloff falloff);

/// Replaces a pattern, and with it the settings of all its copies, over all levels, that are not their own.
Project withPattern(Project project, Pattern pattern);

/// Takes a family out; its members belong to none.
Project withoutFamily(Project project, const FamilyId& id);

/// Makes a pattern of an emitter, which becomes its first copy.
Project withPatternOf(Project project, const LevelId& levelId, const EmitterId& id, const std::string& name);

/// Lets a copy follow its pattern again in some settings.
Project withFollowing(Project project, const LevelId& levelId, const EmitterId& id, SettingSet which);

/// Makes an emitter a copy of a pattern in everything. An empty id makes it stand alone, sounding as it does.
Project withPatternFor(Project project, const LevelId& levelId, const EmitterId& id, const PatternId& pattern);

/// What a copy of a sound has for all time: the level of the file that it plays and what chance adds to its level and pitch.
/// Nothing for sounds that draw anew for each piece. The same each time for the same emitter.
struct CopyChance {
    double level_db = 0.0;
    double pitch_st = 0.0;
};
CopyChance chanceOf(const Project& project, const Emitter& emitter);
/// The same for a later start, with any sound that the emitter plays. `file`: which was picked; none: the first that the
/// sound's order gives.
CopyChance chanceOf(const Project& project, const Sound& sound, const Emitter& emitter, std::uint64_t start,
                    const std::optional<std::size_t>& file);

/// Whether an emitter is somewhere: it can be pointed at on the Plan.
bool isOnPlan(const Emitter& emitter);
/// Whether it sounds from one place at a time, so that distance rings mean something.
bool hasOnePlace(const Emitter& emitter);

/// By how much an emitter's family stretches the distances of its falloff; 1 without one.
double reachFactorOf(const Project& project, const Emitter& emitter);

/// A project in which nothing of a level answers: no room, and no wall outside.
Project withoutReverb(Project project, const LevelId& level);

/// The grade that counts for an emitter: its own, else its family's, else ordinary.
Priority priorityOf(const Project& project, const Emitter& emitter);

/// Gives an emitter a copy of the shared falloff that it uses.
Project withOwnFalloff(Project project, const LevelId& levelId, const EmitterId& id);

} // namespace stone
