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

/// The sound's clock at a time of the level.
double clockOf(const Scene& scene, const Emitter& emitter, const SoundMaterial& material, double time_s)
{
    const double pitch_st = emitter.pitch_st + chanceOf(scene.model.project(), emitter).pitch_st;
    return (time_s - emitter.startAfter_s) * std::exp2(pitch_st / 12.0) * material.rate();
}

} // namespace

Project withAudition(Project project, const LevelId& level, const Audition& audition)
{
    Emitter emitter;
    emitter.id = emitterIdOf(audition);
    emitter.kind = EmitterKind::bed;
    emitter.sound = audition.sound;
    emitter.startAfter_s = audition.start_s;
    emitter.solo = audition.alone;
    emitter.priority = Priority::vital;
    const Sound* sound = project.sounds.find(audition.sound);
    if (sound != nullptr && audition.file && *audition.file < sound->files.size()) {
        Sound alone = *sound;
        alone.id = emitter.sound = fileIdOf(audition);
        alone.files = {sound->files[*audition.file]};
        alone.make = Make::one;
        alone.loop = audition.loop;
        alone.delay_s = 0.0;
        alone.copiesApart = false;
        alone.pitchSpread_st = alone.levelSpread_db = 0.0;
        project.sounds.put(std::move(alone));
    }
    return withLevel(std::move(project), level, [&](Level& l) { l.emitters.append(std::move(emitter)); });
}

std::vector<double> positionsIn(const Scene& scene, const SoundId& sound, std::size_t file, double time_s,
                                const std::optional<Audition>& audition)
{
    std::vector<double> positions;
    std::vector<Piece> pieces;
    const auto& emitters = scene.model.level().emitters;
    for (std::size_t i = 0; i < emitters.size(); ++i) {
        const SharedMaterial& material = scene.materials[i];
        const bool one =
            audition && audition->sound == sound && audition->file == file && emitters[i]->sound == fileIdOf(*audition);
        const bool heard = scene.only.empty() || scene.only.contains(static_cast<std::uint32_t>(i));
        if (!material || !heard || (emitters[i]->sound != sound && !one)) {
            continue;
        }
        Course course = material->course(scene.model.project().seed, courseIdOf(*material->sound, *emitters[i]));
        const double clock = clockOf(scene, *emitters[i], *material, time_s);
        course.during(clock, clock + 1.0, pieces);
        for (const Piece& piece : pieces) {
            if (piece.file == (one ? 0 : file) && clock >= piece.begins) {
                positions.push_back(course.foldedPlaceAt(piece, clock) / material->rate());
            }
        }
    }
    return positions;
}

bool isOver(const Scene& scene, const Audition& audition, double time_s)
{
    const auto& emitters = scene.model.level().emitters;
    for (std::size_t i = 0; i < emitters.size(); ++i) {
        if (emitters[i]->id == emitterIdOf(audition)) {
            return scene.materials[i] && scene.model.sounds(static_cast<std::uint32_t>(i)).to_s < time_s;
        }
    }
    return true;
}

Project withoutTreatment(Project project)
{
    const List<Sound> sounds = project.sounds;
    for (const auto& sound : sounds) {
        Sound bare = *sound;
        bare.lowPass_hz = Sound{}.lowPass_hz;
        bare.highPass_hz = Sound{}.highPass_hz;
        bare.effects = Effects{};
        project.sounds.put(std::move(bare));
    }
    return project;
}

} // namespace stone
