// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/distance.h"
#include "analysis/audibility_map.h"
#include "analysis/findings.h"
#include "device/audio_device.h"
#include "engine/live.h"
#include "engine/scene.h"
#include "level/ray_scene.h"
#include "posts/spot_judge.h"
#include "project/edit.h"
#include "project/read.h"

#include <benchmark/benchmark.h>

#include <chrono>
#include <memory>
#include <random>
#include <thread>

/// What maps of Vellmoor Halt cost, one thread: 48 cells by 30 with fifty emitters all over it, against as many bare rays of
/// the library with the bare falloff; of all that the halt has; of one emitter; after one was moved. And 200 posts at spots,
/// and a map on two threads beside the playing engine.
namespace
{

using namespace stone;

constexpr std::uint32_t cells = 48;

struct Halt {
    std::shared_ptr<const Project> project;
    std::shared_ptr<const Ground> ground;
    std::unique_ptr<const HearingModel> model;
    MapGrid grid;

    explicit Halt(int lamps) : project(std::make_shared<const Project>(readProjectFile(DEMO "/project.json").project))
    {
        ground = readGeometry(*project, DEMO).back().ground;
        if (lamps > 0) {
            std::mt19937 chance(3);
            std::uniform_real_distribution<double> east(-20, 95), north(-15, 50);
            project = std::make_shared<const Project>(withLevel(*project, project->levels[0]->id, [&](Level& level) {
                level.emitters = {};
                while (level.emitters.size() < static_cast<std::size_t>(lamps)) {
                    Emitter lamp;
                    lamp.id = {"lamp-" + std::to_string(level.emitters.size())};
                    lamp.at = {east(chance), north(chance), 2.0};
                    lamp.sound = project->sounds[0]->id;
                    if (!ground->insideSolid(lamp.at)) {
                        level.emitters.append(lamp);
                    }
                }
            }));
        }
        model = std::make_unique<const HearingModel>(
            std::make_shared<const World>(project, project->levels[0]->id, ground, LengthOf{}, Ways::find));
        grid = gridOf(*project->levels[0], 1, &ground->mesh(), cells);
    }
};

const Halt& fifty()
{
    static const Halt halt(50);
    return halt;
}

const Halt& asItIs()
{
    static const Halt halt(0);
    return halt;
}

void bareRaysAndFalloff(benchmark::State& state)
{
    const Halt& halt = fifty();
    const RayScene scene(halt.ground->mesh());
    const DistanceFormula formula;
    for (auto _ : state) {
        double sum = 0.0;
        for (std::uint32_t cell = 0; cell < halt.grid.cells(); ++cell) {
            const Vec3 ears = halt.grid.at(cell % halt.grid.columns, cell / halt.grid.columns);
            for (const auto& emitter : halt.project->levels[0]->emitters) {
                const Vec3 way = emitter->at - ears;
                const double length = glm::length(way);
                sum += scene.meet(ears, way / length, length) ? 0.0 : distanceGain(formula, length);
            }
        }
        benchmark::DoNotOptimize(sum);
    }
    state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(halt.grid.cells()));
}
BENCHMARK(bareRaysAndFalloff)->Unit(benchmark::kMillisecond);

void map(benchmark::State& state, const Halt& halt, const MapQuestion& question)
{
    for (auto _ : state) {
        benchmark::DoNotOptimize(mapLevel(*halt.model, halt.grid, question, {0, halt.grid.rows}, 1).data());
    }
    state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(halt.grid.cells()));
}

void mapOfFifty(benchmark::State& state)
{
    map(state, fifty(), {});
}
BENCHMARK(mapOfFifty)->Unit(benchmark::kMillisecond);

void mapAsTheLevelBegins(benchmark::State& state)
{
    map(state, asItIs(), {});
}
BENCHMARK(mapAsTheLevelBegins)->Unit(benchmark::kMillisecond);

void mapInTheMean(benchmark::State& state)
{
    map(state, asItIs(), {.mean = true});
}
BENCHMARK(mapInTheMean)->Unit(benchmark::kMillisecond);

void mapWithVoices(benchmark::State& state)
{
    map(state, asItIs(), {.voices = true});
}
BENCHMARK(mapWithVoices)->Unit(benchmark::kMillisecond);

void mapOfOne(benchmark::State& state)
{
    map(state, asItIs(), {.which = {1}});
}
BENCHMARK(mapOfOne)->Unit(benchmark::kMillisecond);

/// The first picture in the window: every sixteenth cell of 192.
void coarseMap(benchmark::State& state)
{
    const Halt& halt = asItIs();
    const MapGrid grid = gridOf(*halt.project->levels[0], 1, &halt.ground->mesh(), 192);
    const auto which = cellsOfStride(grid, 16, true);
    std::vector<MapCell> known(grid.cells());
    for (auto _ : state) {
        mapCells(*halt.model, grid, {.mean = true}, which, known, 1);
    }
    state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(which.size()));
}
BENCHMARK(coarseMap)->Unit(benchmark::kMillisecond);

void twoHundredPosts(benchmark::State& state)
{
    const Halt& halt = asItIs();
    std::vector<Post> posts;
    for (int i = 0; i < 200; ++i) {
        Post post;
        post.id = {"post-" + std::to_string(i)};
        post.at = {i % 20 * 3.0, i / 20 * 3.0, 0.0};
        post.emitter = halt.project->levels[0]->emitters[static_cast<std::size_t>(1 + i % 9)]->id;
        post.least_db = -30.0;
        posts.push_back(post);
    }
    for (auto _ : state) {
        benchmark::DoNotOptimize(judgeStanding(*halt.model, posts, 1).data());
    }
    state.SetItemsProcessed(state.iterations() * 200);
}
BENCHMARK(twoHundredPosts)->Unit(benchmark::kMillisecond);

/// A whole map of 256 cells on two threads while the engine plays the demo's walk by the clock. `late`: steps that were not
/// there in time; `starved`: how often a voice was silent since its sound did not come from the disk in time.
void besideThePlayingEngine(benchmark::State& state)
{
    constexpr int rate = 48'000;
    const Halt& halt = asItIs();
    SoundBank bank(rate);
    const LevelId& level = halt.project->levels[0]->id;
    Live live(Layout::binaural, rate);
    live.setScene(makeScene(halt.project, level, bank, filesInside(DEMO), Loading::now, halt.ground));
    const auto clock = openClock(rate, stepFrames);
    live.start();
    live.playWalk(halt.project->levels[0]->walks[0]->id, 0.0);
    clock->start(live);
    std::this_thread::sleep_for(std::chrono::seconds(2)); // what is read on the way to the first sound is not meant
    const Live::Snapshot before = live.snapshot();
    const MapGrid grid = gridOf(*halt.project->levels[0], 1, &halt.ground->mesh(), 256);
    for (auto _ : state) {
        benchmark::DoNotOptimize(mapLevel(*halt.model, grid, {}, {0, grid.rows}, 2).data());
    }
    const Live::Snapshot after = live.snapshot();
    state.counters["late"] = static_cast<double>(after.lateSteps - before.lateSteps);
    state.counters["starved"] = static_cast<double>(after.starved - before.starved);
    state.counters["steps"] = (after.time_s - before.time_s) * rate / static_cast<double>(stepFrames);
    clock->stop();
    live.stop();
}
BENCHMARK(besideThePlayingEngine)->Unit(benchmark::kMillisecond)->Iterations(4)->UseRealTime();

} // namespace
