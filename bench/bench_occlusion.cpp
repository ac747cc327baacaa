// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/control.h"
#include "hearing/model.h"
#include "level/mesh_import.h"
#include "level/ray_scene.h"
#include "project/edit.h"

#include <benchmark/benchmark.h>

#include <random>

/// What walls cost in the halt: rays that are told wall by wall against bare rays of the library to the same places, and a
/// control step with many emitters in reach, nine rays each.
namespace
{

using namespace stone;

struct Halt {
    std::shared_ptr<const Ground> ground = std::make_shared<const Ground>(
        std::make_shared<const Mesh>(importMesh(std::filesystem::path(DEMO) / "level/vellmoor-halt.glb", {})));
    std::shared_ptr<const Obstacles> obstacles = ground->obstacles(0.25);
    std::vector<Vec3> places;

    Halt()
    {
        std::mt19937 chance(3);
        std::uniform_real_distribution<double> east(5, 115), north(5, 80), up(0.5, 4.0);
        while (places.size() < 500) {
            const Vec3 place{east(chance), north(chance), up(chance)};
            if (!ground->insideSolid(place)) {
                places.push_back(place);
            }
        }
    }
};

const Halt& halt()
{
    static const Halt halt;
    return halt;
}

const Vec3 ears{52.0, 30.0, 1.6};

void bareRays(benchmark::State& state)
{
    const RayScene scene(halt().obstacles->mesh());
    for (auto _ : state) {
        for (const Vec3& place : halt().places) {
            const Vec3 way = place - ears;
            const double length = glm::length(way);
            benchmark::DoNotOptimize(scene.meet(ears, way / length, length));
        }
    }
    state.SetItemsProcessed(state.iterations() * 500);
}
BENCHMARK(bareRays);

void raysThroughWalls(benchmark::State& state)
{
    std::vector<Obstacles::Crossing> crossings;
    for (auto _ : state) {
        for (const Vec3& place : halt().places) {
            halt().obstacles->through({.from = ears, .to = place}, crossings);
            benchmark::DoNotOptimize(crossings.data());
        }
    }
    state.SetItemsProcessed(state.iterations() * 500);
}
BENCHMARK(raysThroughWalls);

std::shared_ptr<const Scene> sceneWith(std::size_t emitters, bool bends)
{
    Project project = blankProject();
    Sound loop;
    loop.id = {"loop"};
    loop.files = {{.file = "a.wav"}};
    project.sounds.put(loop);
    project.occlusion.bends = bends;
    project.occlusion.reach_m = 500.0;
    project = withLevel(std::move(project), {"level"}, [&](Level& level) {
        for (std::size_t i = 0; i < emitters; ++i) {
            Emitter emitter;
            emitter.id = {"e" + std::to_string(i)};
            emitter.sound = {"loop"};
            emitter.at = halt().places[i];
            Falloff flat;
            flat.lanes[0].on = false;
            emitter.falloff = flat;
            level.emitters.append(emitter);
        }
    });
    auto document = std::make_shared<const Project>(std::move(project));
    auto world = std::make_shared<const World>(document, document->levels[0]->id, halt().ground, LengthOf{});
    return std::make_shared<const Scene>(Scene{.model = HearingModel(std::move(world)), .materials = {nullptr}});
}

/// Steps of somebody who walks: every emitter is looked at anew once in eight.
void controlStep(benchmark::State& state)
{
    Control control(Layout::stereo, 48'000);
    control.setScene(sceneWith(static_cast<std::size_t>(state.range(0)), state.range(1) != 0), 0);
    StepPlan plan;
    plan.voices.reserve(64);
    std::uint64_t step = 0;
    for (auto _ : state) {
        const double walked_m = 0.0075 * static_cast<double>(step % 2000);
        control.decide(step++, Ears(ears + Vec3{walked_m, 0.0, 0.0}, 0.0, 0.0, 0.0), plan);
    }
}
BENCHMARK(controlStep)
    ->ArgNames({"emitters", "bends"})
    ->Args({50, 1})
    ->Args({500, 0})
    ->Args({500, 1})
    ->Unit(benchmark::kMicrosecond);

/// All emitters at once, as after a jump.
void allAtOnce(benchmark::State& state)
{
    const auto scene = sceneWith(500, true);
    for (auto _ : state) {
        benchmark::DoNotOptimize(scene->model.hearAll(Ears(ears, 0.0, 0.0, 0.0), TimeSpan::at(0.0)));
    }
}
BENCHMARK(allAtOnce)->Unit(benchmark::kMillisecond);

void cornersOfAStorey(benchmark::State& state)
{
    for (auto _ : state) {
        const CornerGraph graph(*halt().obstacles, 1.5);
        state.counters["corners"] = static_cast<double>(graph.size());
    }
}
BENCHMARK(cornersOfAStorey)->Unit(benchmark::kMillisecond);

} // namespace
