// SPDX-License-Identifier: MPL-2.0
#include "project/references.h"

namespace stone
{

namespace
{

template <class Wanted, class Thing> bool refers(const Thing& thing, const Wanted& id)
{
    bool found = false;
    seeReferences(thing, [&](const auto& reference) {
        if constexpr (std::is_same_v<std::remove_cvref_t<decltype(reference)>, Wanted>) {
            found = found || reference == id;
        }
    });
    return found;
}

/// The users among a list's things.
template <class Wanted, class Thing> void addUsers(std::vector<std::string>& users, const List<Thing>& list, const char* kind,
                                                   const Wanted& id, const std::string& where = {})
{
    for (const auto& thing : list) {
        if (refers(*thing, id)) {
            users.push_back(std::string(kind) + ' ' + thing->name + where);
        }
    }
}

} // namespace

template <class Wanted> std::vector<std::string> whoUses(const Project& project, const Wanted& id, const LevelId& level)
{
    std::vector<std::string> users;
    if (id.empty()) {
        return users;
    }
    addUsers(users, project.sounds, "sound", id);
    addUsers(users, project.falloffs, "falloff", id);
    addUsers(users, project.gameValues, "game value", id);
    addUsers(users, project.families, "family", id);
    addUsers(users, project.patterns, "pattern", id);
    addUsers(users, project.gazes, "gaze", id);
    for (const auto& one : project.levels) {
        if (!level.empty() && one->id != level) {
            continue;
        }
        const std::string where = project.levels.size() > 1 && level.empty() ? " in " + one->name : std::string();
        addUsers(users, one->emitters, "emitter", id, where);
        addUsers(users, one->plants, "plant rule", id, where);
        addUsers(users, one->zones, "zone", id, where);
        addUsers(users, one->openings, "opening", id, where);
        addUsers(users, one->walks, "walk", id, where);
        addUsers(users, one->posts, "post", id, where);
    }
    if constexpr (std::is_same_v<Wanted, MaterialId>) {
        for (const SurfaceUse& use : project.surfaces) {
            if (use.material == id) {
                users.push_back("surface " + use.surface);
            }
        }
    }
    return users;
}

template std::vector<std::string> whoUses(const Project& project, const SoundId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const FalloffId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const FamilyId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const PatternId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const SignalId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const GameValueId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const MaterialId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const ZoneId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const EmitterId& id, const LevelId& level);
template std::vector<std::string> whoUses(const Project& project, const WalkId& id, const LevelId& level);

} // namespace stone
