// SPDX-License-Identifier: MPL-2.0
#include "project/edit.h"

#include "project/chance.h"
#include "project/picker.h"

#include <cctype>
#include <utility>

namespace stone
{

std::string slug(std::string_view name)
{
    std::string text;
    for (const char c : name) {
        if (std::isalnum(static_cast<unsigned char>(c)) != 0) {
            text += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        } else if (!text.empty() && text.back() != '-') {
            text += '-';
        }
    }
    while (!text.empty() && text.back() == '-') {
        text.pop_back();
    }
    return text.empty() ? "thing" : text;
}

Project withLevel(Project project, const LevelId& id, const std::function<void(Level&)>& change)
{
    if (const Level* found = project.levels.find(id)) {
        Level level = *found;
        change(level);
        project.levels.put(std::move(level));
    }
    return project;
}

Project withEmitter(Project project, const LevelId& levelId, const EmitterId& id, const std::function<void(Emitter&)>& change)
{
    return withLevel(std::move(project), levelId, [&](Level& level) {
        if (const Emitter* found = level.emitters.find(id)) {
            Emitter emitter = *found;
            change(emitter);
            if (!emitter.pattern.empty()) {
                emitter.own |= differing(*found, emitter);
            }
            level.emitters.put(std::move(emitter));
        }
    });
}

Project blankProject()
{
    Project project;
    Falloff falloff;
    falloff.id = {"medium"};
    falloff.name = "Medium";
    falloff.lanes.front().formula = {.reference_m = 2.0, .maximum_m = 25.0, .silentAt_m = 25.0};
    project.falloffs.append(std::move(falloff));
    Level level;
    level.id = {"level"};
    level.name = "Level";
    level.storeys = {Storey{.name = "Ground", .extras = {}}};
    project.levels.append(std::move(level));
    return project;
}

const Falloff& falloffOf(const Project& project, const Emitter& emitter)
{
    static const Falloff fallback;
    if (const auto* own = std::get_if<Falloff>(&emitter.falloff)) {
        return *own;
    }
    const Falloff* shared = project.falloffs.find(std::get<FalloffId>(emitter.falloff));
    return shared != nullptr ? *shared : fallback;
}

int usersOf(const Project& project, const FalloffId& id)
{
    int users = 0;
    for (const auto& level : project.levels) {
        for (const auto& emitter : level->emitters) {
            const auto* shared = std::get_if<FalloffId>(&emitter->falloff);
            const bool everywhere = emitter->kind == EmitterKind::bed && level->zones.find(emitter->zone) == nullptr;
            users += shared != nullptr && *shared == id && !everywhere ? 1 : 0;
        }
    }
    return users;
}

const Level* levelOrFirst(const Project& project, const LevelId& id)
{
    if (const Level* found = project.levels.find(id)) {
        return found;
    }
    return project.levels.empty() ? nullptr : project.levels[0].get();
}

Project withFalloff(Project project, const LevelId& levelId, const EmitterId& id, Falloff falloff)
{
    const Level* level = project.levels.find(levelId);
    const Emitter* emitter = level != nullptr ? level->emitters.find(id) : nullptr;
    if (emitter == nullptr) {
        return project;
    }
    if (const auto* shared = std::get_if<FalloffId>(&emitter->falloff)) {
        if (project.falloffs.find(*shared) != nullptr) {
            falloff.id = *shared;
            project.falloffs.put(std::move(falloff));
            return project;
        }
    }
    return withEmitter(std::move(project), levelId, id, [&](Emitter& e) { e.falloff = std::move(falloff); });
}

Project withOwnFalloff(Project project, const LevelId& levelId, const EmitterId& id)
{
    const Level* level = project.levels.find(levelId);
    const Emitter* emitter = level != nullptr ? level->emitters.find(id) : nullptr;
    if (emitter == nullptr) {
        return project;
    }
    Falloff own = falloffOf(project, *emitter);
    own.id = {};
    return withEmitter(std::move(project), levelId, id, [&](Emitter& e) { e.falloff = std::move(own); });
}

Project withPattern(Project project, Pattern pattern)
{
    for (const auto& old : List(project.levels)) {
        Level level = *old;
        bool changed = false;
        for (const auto& emitter : old->emitters) {
            if (emitter->pattern == pattern.id && !emitter->own.all()) {
                Emitter copy = *emitter;
                takeSettings(copy, pattern.settings, ~copy.own);
                level.emitters.put(std::move(copy));
                changed = true;
            }
        }
        if (changed) {
            project.levels.put(std::move(level));
        }
    }
    project.patterns.put(std::move(pattern));
    return project;
}

Project withoutFamily(Project project, const FamilyId& id)
{
    for (const auto& pattern : List(project.patterns)) {
        if (pattern->settings.family == id) {
            Pattern next = *pattern;
            next.settings.family = {};
            project.patterns.put(std::move(next));
        }
    }
    for (const auto& old : List(project.levels)) {
        Level level = *old;
        for (const auto& emitter : old->emitters) {
            if (emitter->family == id) {
                Emitter next = *emitter;
                next.family = {};
                level.emitters.put(std::move(next));
            }
        }
        project.levels.put(std::move(level));
    }
    project.families.remove(id);
    return project;
}

Project withPatternOf(Project project, const LevelId& levelId, const EmitterId& id, const std::string& name)
{
    const Level* level = project.levels.find(levelId);
    const Emitter* emitter = level != nullptr ? level->emitters.find(id) : nullptr;
    if (emitter == nullptr) {
        return project;
    }
    Pattern pattern;
    pattern.id = project.patterns.freshId(name);
    pattern.name = name;
    pattern.settings = *emitter;
    const PatternId made = pattern.id;
    project.patterns.append(std::move(pattern));
    return withPatternFor(std::move(project), levelId, id, made);
}

Project withFollowing(Project project, const LevelId& levelId, const EmitterId& id, SettingSet which)
{
    return withLevel(project, levelId, [&](Level& level) {
        const Emitter* found = level.emitters.find(id);
        const Pattern* pattern = found != nullptr ? project.patterns.find(found->pattern) : nullptr;
        if (pattern != nullptr) {
            Emitter copy = *found;
            takeSettings(copy, pattern->settings, which);
            copy.own &= ~which;
            level.emitters.put(std::move(copy));
        }
    });
}

Project withPatternFor(Project project, const LevelId& levelId, const EmitterId& id, const PatternId& pattern)
{
    project = withLevel(std::move(project), levelId, [&](Level& level) {
        if (const Emitter* found = level.emitters.find(id)) {
            Emitter copy = *found;
            copy.pattern = pattern;
            copy.own = {};
            level.emitters.put(std::move(copy));
        }
    });
    return withFollowing(std::move(project), levelId, id, SettingSet{}.set());
}

CopyChance chanceOf(const Project& project, const Emitter& emitter)
{
    const Sound* sound = project.sounds.find(emitter.sound);
    return sound != nullptr ? chanceOf(project, *sound, emitter, 0, {}) : CopyChance{};
}

CopyChance chanceOf(const Project& project, const Sound& sound, const Emitter& emitter, std::uint64_t start,
                    const std::optional<std::size_t>& file)
{
    const auto around = [&](double spread, const char* purpose) {
        return spread > 0.0 ? spread * (2.0 * chance(project.seed, emitter.id.text, purpose, start) - 1.0) : 0.0;
    };
    if (sound.drawsEachPiece()) {
        return {};
    }
    double file_db = 0.0;
    if (sound.make == Make::one && !sound.files.empty()) {
        const std::size_t picked = file ? *file : firstFile(project.seed, sound, courseIdOf(sound, emitter));
        file_db = sound.files[picked].level_db;
    }
    return {file_db + around(sound.levelSpread_db, "level"), around(sound.pitchSpread_st, "pitch")};
}

bool hasOnePlace(const Emitter& emitter)
{
    return emitter.kind == EmitterKind::point || emitter.kind == EmitterKind::roamer;
}

bool isOnPlan(const Emitter& emitter)
{
    return hasOnePlace(emitter) || emitter.kind == EmitterKind::area ||
           (emitter.kind == EmitterKind::sprinkle && emitter.sprinkling.where == Sprinkling::Where::shape);
}

double reachFactorOf(const Project& project, const Emitter& emitter)
{
    const Family* family = project.families.find(emitter.family);
    return family != nullptr ? family->reachFactor : 1.0;
}

Priority priorityOf(const Project& project, const Emitter& emitter)
{
    const Family* family = project.families.find(emitter.family);
    return emitter.priority.value_or(family != nullptr ? family->priority.value_or(Priority::ordinary) : Priority::ordinary);
}

Project withoutReverb(Project project, const LevelId& level)
{
    return withLevel(std::move(project), level, [](Level& l) {
        for (const auto& known : List(l.rooms)) {
            Room room = *known;
            room.reverb.on = false;
            l.rooms.put(std::move(room));
        }
        l.outside = {};
    });
}

} // namespace stone
