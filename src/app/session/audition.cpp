// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/audition.h"

#include "project/edit.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

EmitterId emitterIdOf(const Audition& audition)
{
    return {"audition " + std::to_string(audition.serial)};
}

SoundId fileIdOf(const Audition& audition)
{
    return {"audition file " + std::to_string(audition.serial)};
}

/// A start's clock at a time of the level.
double clockOf(const Scene& scene, const Start& start, const SoundMaterial& material, double time_s)
{
    const double pitch_st = scene.model.level().emitters[start.emitter]->pitch_st + start.pitch_st;
    return (time_s - start.began_s) * std::exp2(pitch_st / 12.0) * material.rate();
}

} // namespace

Project withAudition(Project project, const LevelId& level, const Audition& audition)
{
    Emitter emitter;
    emitter.id = emitterIdOf(audition);
    emitter.kind = EmitterKind::bed;
    emitter.sound = audition.sound;
    emitter.startAfter_s = audition.start_s;
    emitter.priority = Priority::vital;
    const Sound* sound = project.sounds.find(audition.sound);
    if (!audition.file) {
        emitter.starting.rounds = audition.rounds;
    }
    if (sound != nullptr && audition.file && *audition.file < sound->files.size()) {
        Sound alone = *sound;
        alone.id = emitter.sound = fileIdOf(audition);
        alone.files = {sound->files[*audition.file]};
        if (!audition.instead.empty()) {
            alone.files.front().file = audition.instead.string();
            alone.files.front().level_db += audition.instead_db;
        }
        alone.make = Make::one;
        alone.loop = audition.rounds == Rounds::endless;
        alone.delay_s = 0.0;
        alone.copiesApart = false;
        alone.pitchSpread_st = alone.levelSpread_db = 0.0;
        project.sounds.put(std::move(alone));
    }
    return withLevel(std::move(project), level, [&](Level& l) { l.emitters.append(std::move(emitter)); });
}

ForEars forAudition(ForEars forEars, const Audition& audition)
{
    if (audition.alone) {
        forEars = {};
    }
    if (audition.alone || forEars.anySolo()) {
        forEars.solo.insert(emitterIdOf(audition));
    }
    return forEars;
}

std::vector<double> SoundPositions::in(const std::shared_ptr<const Scene>& of, const SoundId& sound, std::size_t file,
                                       double time_s, const std::optional<Audition>& audition, const WorldState* state)
{
    if (scene_ != of) {
        courses_.clear();
        scene_ = of;
    }
    ++asked_;
    const Scene& scene = *of;
    std::vector<double> positions;
    std::vector<Piece> pieces;
    const World& world = scene.model.world();
    const auto add = [&](const Start& start) {
        const bool there = start.playable != Start::nothing && scene.materials[start.playable];
        if (!there || scene.model.silencedForEars(start.emitter)) {
            return;
        }
        const SoundMaterial& material = *scene.materials[start.playable];
        const bool one =
            audition && audition->sound == sound && audition->file == file && material.sound->id == fileIdOf(*audition);
        if (material.sound->id != sound && !one) {
            return;
        }
        const Copy copy{start.emitter, start.number};
        auto known = courses_.find(copy);
        if (known == courses_.end()) {
            known = courses_
                        .emplace(copy,
                                 Followed{material.course(scene.model.project().seed, world.courseIdOf(start), start.file), 0})
                        .first;
        }
        known->second.seen = asked_;
        Course& course = known->second.course;
        const double clock = clockOf(scene, start, material, start.pausedAt_s.value_or(time_s));
        course.during(clock, clock + 1.0, pieces);
        for (const Piece& piece : pieces) {
            if (piece.file == (one ? 0 : file) && clock >= piece.begins) {
                positions.push_back(course.foldedPlaceAt(piece, clock) / material.rate());
            }
        }
    };
    for (std::uint32_t i = 0; i < scene.model.level().emitters.size(); ++i) {
        if (world.simple(i)) {
            add(world.simpleStart(i));
        }
    }
    if (state != nullptr) {
        std::for_each(state->starts.begin(), state->starts.end(), add);
    }
    std::erase_if(courses_, [this](const auto& entry) { return entry.second.seen != asked_; });
    return positions;
}

bool isOver(const Scene& scene, const Audition& audition, double time_s)
{
    const auto& emitters = scene.model.level().emitters;
    for (std::size_t i = 0; i < emitters.size(); ++i) {
        if (emitters[i]->id == emitterIdOf(audition)) {
            return scene.materialOf(static_cast<std::uint32_t>(i)) &&
                   scene.model.sounds(static_cast<std::uint32_t>(i)).to_s < time_s;
        }
    }
    return true;
}

} // namespace stone
