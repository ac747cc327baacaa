// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/control.h"
#include "engine/offline.h"
#include "project/edit.h"

#include <benchmark/benchmark.h>

#include <cmath>
#include <string>

/// What a control step costs in a level full of ambiences, as it grows: rows of zones with a bed, a sprinkle, an area and a few
/// Points each, of which the ears are in one. The floor is the distance from the ears to every emitter, once.
namespace
{

using namespace stone;

constexpr int perZone = 10;
constexpr double zone_m = 40.0;

Project townOf(int zones)
{
    Project project = blankProject();
    Sound loop;
    loop.id = {"loop"};
    loop.files = {{.file = "a.wav"}};
    project.sounds.put(loop);
    loop.id = {"shot"};
    loop.loop = false;
    loop.files = {{.file = "a.wav"}, {.file = "b.wav"}};
    project.sounds.put(loop);
    return withLevel(std::move(project), {"level"}, [&](Level& level) {
        for (int z = 0; z < zones; ++z) {
            const int columns = static_cast<int>(std::ceil(std::sqrt(zones)));
            const Vec3 at{zone_m * (z % columns), zone_m * (z / columns), 0.0};
            Zone zone;
            zone.id = {"zone" + std::to_string(z)};
            zone.at = at;
            zone.shape = Prism{{{-18, -18}, {18, -18}, {18, 0}, {0, 0}, {0, 18}, {-18, 18}}, 6.0};
            level.zones.append(zone);
            for (int i = 0; i < perZone; ++i) {
                Emitter emitter;
                emitter.id = {"e" + std::to_string(z) + "-" + std::to_string(i)};
                emitter.sound = {"loop"};
                emitter.falloff = FalloffId{"medium"};
                emitter.at = at + Vec3{3.0 * i - 14.0, -9.0, 1.5};
                if (i == 0) {
                    emitter.kind = EmitterKind::bed;
                    emitter.zone = zone.id;
                } else if (i == 1) {
                    emitter.kind = EmitterKind::sprinkle;
                    emitter.zone = zone.id;
                    emitter.sound = {"shot"};
                    emitter.sprinkling.least_s = 0.5;
                    emitter.sprinkling.most_s = 2.0;
                } else if (i == 2) {
                    emitter.kind = EmitterKind::area;
                    emitter.area.shape = Ribbon{{{-10, 0, 0}, {0, 4, 0}, {10, 0, 0}}, 0.5, false};
                }
                level.emitters.append(emitter);
            }
        }
    });
}

SharedMaterial materialOf(const Playable& playable)
{
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->channels.assign(2, std::vector<float>(48'000, 0.1F));
    return std::make_shared<const SoundMaterial>(
        SoundMaterial{playable.sound, std::vector<SharedBuffer>(playable.sound->files.size(), buffer)});
}

Pose walking(std::uint64_t step)
{
    // Round in the first zone, in and out of it.
    const double t = static_cast<double>(step) * 256.0 / 48'000.0;
    return {{8.0 * std::sin(0.3 * t) - 9.0, 8.0 * std::cos(0.2 * t) - 9.0, 0.0}, 20.0 * t, 0, 0};
}

void ambienceStep(benchmark::State& state)
{
    auto project = std::make_shared<const Project>(townOf(static_cast<int>(state.range(0))));
    std::vector<SharedMaterial> materials;
    for (const Playable& playable : playablesOf(*project, *project->levels[0])) {
        materials.push_back(materialOf(playable));
    }
    auto world = std::make_shared<const World>(project, project->levels[0]->id, nullptr, lengthsOf(materials, 1));
    Control control(Layout::stereo, 48'000);
    control.setScene(std::make_shared<Scene>(Scene{.model = HearingModel(world), .materials = materials, .waits = true}), 0);
    StepPlan plan;
    plan.voices.reserve(mostVoices);
    std::uint64_t step = 0;
    for (auto _ : state) {
        const Pose feet = walking(step);
        Pose ears = feet;
        ears.at.z += 1.6;
        control.decide(step++, {.ears = Ears(ears), .feet = feet}, plan);
        benchmark::DoNotOptimize(plan.voices.data());
    }
    state.counters["voices"] = static_cast<double>(plan.voices.size());
    state.counters["emitters"] = static_cast<double>(state.range(0) * perZone);
}

/// The floor: a distance for every emitter that exists.
void distancesKernel(benchmark::State& state)
{
    const Project project = townOf(static_cast<int>(state.range(0)));
    std::vector<Vec3> places;
    for (const auto& emitter : project.levels[0]->emitters) {
        places.push_back(emitter->at);
    }
    std::uint64_t step = 0;
    for (auto _ : state) {
        const Pose ears = walking(step++);
        double sum = 0.0;
        for (const Vec3& place : places) {
            sum += glm::length(place - ears.at);
        }
        benchmark::DoNotOptimize(sum);
    }
}

} // namespace

BENCHMARK(distancesKernel)->Arg(20)->Arg(200)->Arg(2000)->Unit(benchmark::kMicrosecond);
BENCHMARK(ambienceStep)->Arg(20)->Arg(200)->Arg(2000)->Unit(benchmark::kMicrosecond);
