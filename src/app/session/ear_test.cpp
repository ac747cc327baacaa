// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/ear_test.h"

#include "project/chance.h"
#include "project/edit.h"
#include "world/world.h"

#include <algorithm>
#include <cmath>
#include <string>

namespace stone
{

namespace
{

constexpr double ahead_m = 2.0;
constexpr double height_m = 1.6;
constexpr double round_s = 8.0;
constexpr double bursts_s = 0.4; ///< from one to the next
constexpr double burst_s = 0.15;
constexpr double edge_s = 0.01;
constexpr float loud = 0.3F;

/// One burst and the silence after it; the same noise each time.
SharedBuffer bursts(int rate)
{
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = rate;
    std::vector<float> samples(static_cast<std::size_t>(bursts_s * rate));
    const auto sounding = static_cast<std::size_t>(burst_s * rate);
    for (std::size_t i = 0; i < sounding; ++i) {
        const double t = static_cast<double>(i) / rate;
        const double fade = std::min({t / edge_s, (burst_s - t) / edge_s, 1.0});
        const double noise = 2.0 * chance(1, "output", "noise", i) - 1.0;
        samples[i] = loud * static_cast<float>(fade * noise);
    }
    buffer->channels.push_back(std::move(samples));
    return buffer;
}

} // namespace

std::shared_ptr<const Scene> earTestScene(int rate, const SharedHead& head)
{
    Project project = blankProject();
    Sound sound;
    sound.id = {"bursts"};
    sound.name = "Bursts";
    sound.files.emplace_back();
    project.sounds.append(sound);
    Emitter emitter;
    emitter.id = {"bursts"};
    emitter.name = "Bursts";
    emitter.sound = sound.id;
    emitter.at = {0.0, ahead_m, height_m};
    emitter.placement.nearRange_m = 0.0;
    const LevelId level = project.levels[0]->id;
    project = withLevel(std::move(project), level, [&](Level& l) { l.emitters.append(emitter); });
    const auto document = std::make_shared<const Project>(std::move(project));
    const SharedBuffer buffer = bursts(rate);
    const auto material = std::make_shared<const SoundMaterial>(
        SoundMaterial{document->sounds[0], {buffer}, designEffects(document->sounds[0]->effects, rate)});
    auto world = std::make_shared<const World>(document, level, nullptr, lengthsOf({material}, document->seed));
    std::vector<SharedMaterial> materials(world->playables().size(), material);
    HearingModel model(std::move(world));
    auto networks = networksOf(model, rate, {});
    return std::make_shared<const Scene>(
        Scene{.model = std::move(model), .materials = std::move(materials), .head = head, .networks = std::move(networks)});
}

Pose earTestPose(double from_deg)
{
    return {{0.0, 0.0, height_m}, -from_deg, 0.0, 0.0};
}

double goneRound_deg(double seconds)
{
    return std::fmod(360.0 * seconds / round_s, 360.0);
}

} // namespace stone
