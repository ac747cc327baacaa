// SPDX-License-Identifier: MPL-2.0
#include "engine/game_things.h"

#include <algorithm>
#include <array>

namespace stone
{

namespace
{

/// What rides on a thing of the game goes where that goes, and no way of its own.
Emitter ridden(Emitter emitter)
{
    if (emitter.kind == EmitterKind::roamer) {
        emitter.kind = EmitterKind::point;
    }
    return emitter;
}

constexpr std::array<std::pair<const char*, Cause>, 5> acts{
    {{"jump", Cause::jump}, {"land", Cause::land}, {"fall", Cause::fall}, {"reset", Cause::reset}, {"use", Cause::interact}}};

} // namespace

std::optional<Cause> actNamed(std::string_view word)
{
    const auto found = std::find_if(acts.begin(), acts.end(), [&](const auto& act) { return word == act.first; });
    return found != acts.end() ? std::optional(found->second) : std::nullopt;
}

const char* nameOfAct(Cause act)
{
    const auto found = std::find_if(acts.begin(), acts.end(), [&](const auto& one) { return act == one.second; });
    return found != acts.end() ? found->first : nullptr;
}

std::set<std::string> namesToPlace(const Level& level)
{
    std::set<std::string> names;
    for (const auto& emitter : level.emitters) {
        names.insert({emitter->name, emitter->id.text, emitter->riding.thing});
    }
    for (const auto& zone : level.zones) {
        names.insert(zone->riding.thing);
    }
    names.erase(std::string());
    return names;
}

std::shared_ptr<const Project> withThings(const std::shared_ptr<const Project>& project, const LevelId& level,
                                          const GameThings& things)
{
    if (things == GameThings{} || project->levels.find(level) == nullptr) {
        return project;
    }
    Level now = *project->levels.find(level);
    for (const auto& emitter : project->levels.find(level)->emitters) {
        const bool byName = things.placed.contains(emitter->name);
        const bool movable =
            emitter->riding.on != Riding::On::game && emitter->kind != EmitterKind::bed && !isOfCharacter(emitter->kind);
        if (!movable || (!byName && !things.placed.contains(emitter->id.text))) {
            continue;
        }
        Emitter moved = *emitter;
        moved.riding = {Riding::On::game, {}, {}, true, byName ? moved.name : moved.id.text};
        moved.at = Vec3{0.0};
        moved.heading_deg = 0.0;
        now.emitters.put(ridden(std::move(moved)));
    }
    for (const auto& [name, pattern] : things.appeared) {
        if (const Pattern* of = project->patterns.find(pattern)) {
            Emitter more;
            static_cast<EmitterSettings&>(more) = of->settings;
            more.id = {"game/" + name};
            more.name = name;
            more.pattern = of->id;
            more.riding = {Riding::On::game, {}, {}, true, name};
            now.emitters.append(ridden(std::move(more)));
        }
    }
    Project heard = *project;
    heard.levels.put(std::move(now));
    return std::make_shared<const Project>(std::move(heard));
}

} // namespace stone
