// SPDX-License-Identifier: MPL-2.0
#include "project/fragment.h"

#include "project/references.h"
#include "project/unlike_names.h"

#include <algorithm>
#include <map>
#include <tuple>

namespace stone
{

namespace
{

/// Copies what is needed of a list, and what that needs in turn.
class Needs
{
public:
    Needs(const Project& from, Project& to) : from_(from), to_(to) {}

    template <class Thing> void add(const Thing& thing)
    {
        seeReferences(thing, [this](const auto& id) { this->need(id); });
    }

private:
    void need(const SoundId& id) { take(&Project::sounds, id); }
    void need(const FalloffId& id) { take(&Project::falloffs, id); }
    void need(const FamilyId& id) { take(&Project::families, id); }
    void need(const PatternId& id) { take(&Project::patterns, id); }
    void need(const SignalId& id) { take(&Project::signalNames, id); }
    void need(const GameValueId& id) { take(&Project::gameValues, id); }
    void need(const MaterialId& id)
    {
        for (const Material& material : from_.materials) {
            const bool there = std::any_of(to_.materials.begin(), to_.materials.end(),
                                           [&](const Material& known) { return known.id == material.id; });
            if (material.id == id && !there) {
                to_.materials.push_back(material);
            }
        }
    }
    /// Things of the level stay behind unless they were chosen too.
    void need(const ZoneId&) {}
    void need(const EmitterId&) {}
    void need(const WalkId&) {}

    template <class Thing> void take(List<Thing> Project::*list, const decltype(Thing::id)& id)
    {
        const Thing* found = (from_.*list).find(id);
        if (found != nullptr && (to_.*list).find(id) == nullptr) {
            (to_.*list).append(*found);
            add(*found);
        }
    }

    const Project& from_;
    Project& to_;
};

/// Under which id each thing of the fragment is known where it goes.
struct NewIds {
    std::tuple<std::map<SoundId, SoundId>, std::map<FalloffId, FalloffId>, std::map<FamilyId, FamilyId>,
               std::map<PatternId, PatternId>, std::map<SignalId, SignalId>, std::map<GameValueId, GameValueId>,
               std::map<MaterialId, MaterialId>, std::map<ZoneId, ZoneId>, std::map<EmitterId, EmitterId>,
               std::map<WalkId, WalkId>>
        maps;

    template <class Id> std::map<Id, Id>& of() { return std::get<std::map<Id, Id>>(maps); }

    template <class Thing> void renew(Thing& thing)
    {
        seeReferences(thing, [this](auto& id) {
            auto& map = this->of<std::remove_cvref_t<decltype(id)>>();
            const auto found = map.find(id);
            if (found != map.end()) {
                id = found->second;
            }
        });
    }
};

/// Things of the project that come along, or are there already.
template <class Thing> void bring(List<Thing>& into, const List<Thing>& from, bool sameProject, NewIds& ids)
{
    NamesTaken names(into);
    for (const auto& shared : from) {
        const Thing* there = into.find(shared->id);
        auto& map = ids.of<decltype(Thing::id)>();
        if (there != nullptr && (sameProject || *there == *shared)) {
            map[shared->id] = shared->id;
            continue;
        }
        Thing thing = *shared;
        thing.name = names.unlike(thing.name);
        thing.id = there != nullptr ? into.freshId(thing.name) : thing.id;
        map[shared->id] = thing.id;
        ids.renew(thing);
        into.append(std::move(thing));
    }
}

void bringMaterials(Project& into, const Project& from, bool sameProject, NewIds& ids)
{
    for (const Material& material : from.materials) {
        const auto there = std::find_if(into.materials.begin(), into.materials.end(),
                                        [&](const Material& known) { return known.id == material.id; });
        auto& map = ids.of<MaterialId>();
        map[material.id] = material.id;
        if (there == into.materials.end()) {
            into.materials.push_back(material);
        } else if (!sameProject && !(*there == material)) {
            Material other = material;
            const auto taken = [&](const std::string& id) {
                return std::any_of(into.materials.begin(), into.materials.end(),
                                   [&](const Material& known) { return known.id.text == id; });
            };
            for (int n = 2; taken(other.id.text); ++n) {
                other.id.text = material.id.text + "-" + std::to_string(n);
            }
            map[material.id] = other.id;
            into.materials.push_back(std::move(other));
        }
    }
}

/// Gives all things of a list ids of their own where they go.
template <class Thing> std::vector<Thing> renamed(const List<Thing>& from, const List<Thing>& into, NewIds* ids)
{
    std::vector<Thing> things;
    NamesTaken names(into);
    IdsTaken taken(into);
    for (const auto& shared : from) {
        Thing thing = *shared;
        thing.name = names.unlike(thing.name);
        thing.id = {taken.fresh(thing.name)};
        if constexpr (std::is_same_v<Thing, Zone> || std::is_same_v<Thing, Emitter> || std::is_same_v<Thing, Walk>) {
            ids->of<decltype(Thing::id)>()[shared->id] = thing.id;
        }
        things.push_back(std::move(thing));
    }
    return things;
}

} // namespace

Project fragmentOf(const Project& project, const LevelId& level, const LevelThings& things)
{
    Project fragment;
    fragment.name = project.name;
    const Level* from = project.levels.find(level);
    if (from == nullptr) {
        return fragment;
    }
    Level picked;
    picked.id = from->id;
    picked.name = from->name;
    picked.storeys = from->storeys;
    Needs needs(project, fragment);
    const auto pick = [&](const auto& list, const auto& wanted, auto& to) {
        for (const auto& thing : list) {
            if (wanted.contains(thing->id)) {
                to.append(*thing);
                needs.add(*thing);
            }
        }
    };
    pick(from->emitters, things.emitters, picked.emitters);
    pick(from->plants, things.plants, picked.plants);
    pick(from->zones, things.zones, picked.zones);
    pick(from->rooms, things.rooms, picked.rooms);
    pick(from->openings, things.openings, picked.openings);
    pick(from->walks, things.walks, picked.walks);
    pick(from->posts, things.posts, picked.posts);
    fragment.levels.append(std::move(picked));
    return fragment;
}

Pasted withFragment(Project into, const LevelId& level, const Project& fragment)
{
    const bool same = into.name == fragment.name;
    NewIds ids;
    const List<Sound> before = into.sounds;
    // Each kind after those that it refers to.
    bring(into.signalNames, fragment.signalNames, same, ids);
    bring(into.gameValues, fragment.gameValues, same, ids);
    bring(into.families, fragment.families, same, ids);
    bring(into.sounds, fragment.sounds, same, ids);
    bring(into.falloffs, fragment.falloffs, same, ids);
    bring(into.patterns, fragment.patterns, same, ids);
    bringMaterials(into, fragment, same, ids);

    Pasted pasted;
    Level to = *into.levels.find(level);
    const auto put = [&](auto things, auto& list, auto& newOnes) {
        for (auto& thing : things) {
            ids.renew(thing);
            newOnes.insert(thing.id);
            list.append(std::move(thing));
        }
    };
    if (!fragment.levels.empty()) {
        const Level& from = *fragment.levels[0];
        auto zones = renamed(from.zones, to.zones, &ids);
        auto emitters = renamed(from.emitters, to.emitters, &ids);
        put(std::move(zones), to.zones, pasted.things.zones);
        put(std::move(emitters), to.emitters, pasted.things.emitters);
        put(renamed(from.plants, to.plants, nullptr), to.plants, pasted.things.plants);
        put(renamed(from.rooms, to.rooms, nullptr), to.rooms, pasted.things.rooms);
        put(renamed(from.openings, to.openings, nullptr), to.openings, pasted.things.openings);
        put(renamed(from.walks, to.walks, &ids), to.walks, pasted.things.walks);
        put(renamed(from.posts, to.posts, nullptr), to.posts, pasted.things.posts);
    }
    for (const auto& sound : into.sounds) {
        if (before.find(sound->id) == nullptr) {
            pasted.sounds.push_back(sound->id);
        }
    }
    into.levels.put(std::move(to));
    pasted.project = std::move(into);
    return pasted;
}

} // namespace stone
