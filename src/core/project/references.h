// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <string>
#include <type_traits>
#include <vector>

namespace stone
{

/// Goes through all ids by which things of a document refer to others. `see` is called with each of them, whatever it is the id
/// of, empty ones too; ids of a thing that is const are const. What a thing is itself called by is no reference.
template <class Lanes, class See> void seeLaneReferences(Lanes& lanes, See&& see)
{
    for (auto& lane : lanes) {
        see(lane.value);
    }
}

template <class Triggers, class See> void seeTriggerReferences(Triggers& triggers, See&& see)
{
    for (auto& trigger : triggers) {
        see(trigger.zone);
        see(trigger.signal);
    }
}

/// Of the settings of an emitter, or of a pattern's.
template <class Settings, class See> void seeSettingReferences(Settings& settings, See&& see)
{
    see(settings.sound);
    if (auto* shared = std::get_if<FalloffId>(&settings.falloff)) {
        see(*shared);
    } else {
        seeLaneReferences(std::get<Falloff>(settings.falloff).lanes, see);
    }
    seeTriggerReferences(settings.starting.starts, see);
    seeTriggerReferences(settings.starting.stops, see);
    seeTriggerReferences(settings.starting.rearms, see);
    for (auto& condition : settings.starting.conditions) {
        see(condition.value);
    }
    see(settings.family);
    seeLaneReferences(settings.lanes, see);
    see(settings.zone);
    see(settings.sprinkling.answer);
    see(settings.roaming.arriving);
    for (auto& surface : settings.stepping.surfaces) {
        see(surface.sound);
    }
    auto& pulsing = settings.pulsing;
    see(pulsing.dropSound);
    see(pulsing.wallSound);
    see(pulsing.waterSound);
    see(pulsing.kerbSound);
    see(pulsing.stepSound);
}

/// Of any thing of a document: one overload for each kind, for const things and others.
template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Emitter>
void seeReferences(Thing& emitter, See&& see)
{
    seeSettingReferences(emitter, see);
    see(emitter.pattern);
    see(emitter.riding.roamer);
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Pattern>
void seeReferences(Thing& pattern, See&& see)
{
    seeSettingReferences(pattern.settings, see);
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Plant>
void seeReferences(Thing& plant, See&& see)
{
    see(plant.pattern);
    see(plant.roamer);
    see(plant.zone);
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Falloff> || std::is_same_v<std::remove_const_t<Thing>, Sound>
void seeReferences(Thing& thing, See&& see)
{
    seeLaneReferences(thing.lanes, see);
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Zone>
void seeReferences(Thing& zone, See&& see)
{
    see(zone.parent);
    seeLaneReferences(zone.fades, see);
    see(zone.riding.roamer);
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Opening>
void seeReferences(Thing& opening, See&& see)
{
    see(opening.follows);
    see(opening.opensOn);
    see(opening.closesOn);
    see(opening.leaf);
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Walk>
void seeReferences(Thing& walk, See&& see)
{
    for (auto& event : walk.events) {
        see(event.signal);
        see(event.value);
        see(event.burst.emitter);
        see(event.burst.signal);
    }
    see(walk.run.goal);
    see(walk.run.onFall);
    see(walk.run.onCheckpoint);
    see(walk.run.onGoal);
    for (auto& zone : walk.run.checkpoints) {
        see(zone);
    }
    for (auto& zone : walk.run.pits) {
        see(zone);
    }
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Post>
void seeReferences(Thing& post, See&& see)
{
    see(post.walk);
    see(post.zone);
    see(post.emitter);
    see(post.other);
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Gaze>
void seeReferences(Thing& gaze, See&& see)
{
    seeLaneReferences(gaze.lanes, see);
    see(gaze.from);
    see(gaze.until);
    see(gaze.zone);
    for (auto& family : gaze.families) {
        see(family);
    }
    for (auto& emitter : gaze.emitters) {
        see(emitter);
    }
    for (auto& family : gaze.exemptFamilies) {
        see(family);
    }
    for (auto& emitter : gaze.exempt) {
        see(emitter);
    }
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Family>
void seeReferences(Thing& family, See&& see)
{
    seeLaneReferences(family.lanes, see);
    see(family.otherFalloff);
    see(family.otherWhen.value);
}

template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, GameValue>
void seeReferences(Thing& value, See&& see)
{
    see(value.mostOn);
    see(value.restOn);
}

/// Rooms, signals, rigs, materials and ways to export sounds refer to nothing.
template <class Thing, class See>
requires std::is_same_v<std::remove_const_t<Thing>, Room> || std::is_same_v<std::remove_const_t<Thing>, Signal> ||
    std::is_same_v<std::remove_const_t<Thing>, Rig> || std::is_same_v<std::remove_const_t<Thing>, SoundTarget> ||
    std::is_same_v<std::remove_const_t<Thing>, Material>
void seeReferences(Thing&, See&&)
{
}

/// Who refers to something by an id of any kind, in the document's order: "emitter Lamp", and, of another level than the one
/// named, "emitter Lamp in Yard". What belongs to a level is only referred to from there: `level` says which, empty for what
/// the project has.
template <class Wanted> std::vector<std::string> whoUses(const Project& project, const Wanted& id, const LevelId& level = {});

} // namespace stone
