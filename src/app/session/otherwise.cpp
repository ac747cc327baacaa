// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/otherwise.h"

#include "project/edit.h"

#include <functional>
#include <utility>

namespace stone
{

namespace
{

/// Far below what any lane or zone could add to it.
constexpr double noReverb_db = -200.0;

void takeTreatment(Sound& sound)
{
    sound.lowPass_hz = Sound{}.lowPass_hz;
    sound.highPass_hz = Sound{}.highPass_hz;
    sound.effects = Effects{};
}

/// Every sound's filters open and its effects off.
void takeTreatment(Project& project)
{
    const List<Sound> sounds = project.sounds;
    for (const auto& sound : sounds) {
        Sound bare = *sound;
        takeTreatment(bare);
        project.sounds.put(std::move(bare));
    }
}

/// The emitter plays a twin of its sound that has none.
Project withoutTreatment(Project project, const LevelId& level, const EmitterId& id)
{
    const Emitter* emitter = project.levels.find(level)->emitters.find(id);
    const Sound* sound = emitter != nullptr ? project.sounds.find(emitter->sound) : nullptr;
    if (sound == nullptr) {
        return project;
    }
    Sound bare = *sound;
    takeTreatment(bare);
    bare.id = {"without effects " + sound->id.text};
    const SoundId twin = bare.id;
    project.sounds.put(std::move(bare));
    return withEmitter(std::move(project), level, id, [&](Emitter& e) { e.sound = twin; });
}

void takeReverb(Emitter& emitter)
{
    std::erase_if(emitter.lanes, [](const Lane& lane) { return lane.property == LaneProperty::send; });
    Lane none;
    none.property = LaneProperty::send;
    none.over = LaneInput::speed;
    none.shape = LaneShape::curve;
    none.curve = {{0.0, noReverb_db}};
    emitter.lanes.push_back(std::move(none));
}

/// A rule that never comes true, so that the world keeps account of its starts, and a hand can act on them.
void putInHand(Emitter& emitter)
{
    Trigger never;
    never.cause = Cause::signal;
    emitter.starting.stops.push_back(never);
}

} // namespace

std::shared_ptr<const Project> heardOtherwise(const std::shared_ptr<const Project>& document, const LevelId& level,
                                              const Otherwise& otherwise)
{
    if (otherwise.nothing()) {
        return document;
    }
    Project heard = *document;
    if (otherwise.bare) {
        takeTreatment(heard);
    }
    if (!otherwise.gazing) {
        heard.gazes = {};
    }
    if (!otherwise.answering) {
        heard = withoutReverb(std::move(heard), level);
    }
    for (const EmitterId& id : otherwise.bareOnes) {
        heard = withoutTreatment(std::move(heard), level, id);
    }
    const auto change = [&](const std::set<EmitterId>& which, const std::function<void(Emitter&)>& how) {
        for (const EmitterId& id : which) {
            heard = withEmitter(std::move(heard), level, id, how);
        }
    };
    change(otherwise.dryOnes, takeReverb);
    change(otherwise.openOnes, [](Emitter& emitter) { emitter.screening.on = false; });
    change(otherwise.handedOnes, putInHand);
    const Emitter* other = otherwise.falloff ? heard.levels.find(level)->emitters.find(otherwise.falloff->emitter) : nullptr;
    if (other != nullptr) {
        Falloff falloff = falloffOf(heard, *other);
        falloff.lanes = otherwise.falloff->lanes;
        heard = withFalloff(std::move(heard), level, other->id, std::move(falloff));
    }
    return std::make_shared<const Project>(std::move(heard));
}

} // namespace stone
