// SPDX-License-Identifier: GPL-3.0-or-later
#include "hearing/model.h"
#include "project/edit.h"
#include "world/planting.h"

#include <benchmark/benchmark.h>

#include <memory>

/// What planting ten thousand copies costs, and an edit beside them, against making as many emitters; and what hearing costs
/// where ten thousand stand as far apart, of which the same few are near, against a hundredth of them.
namespace
{

using namespace stone;

/// Strewn over a square, 3.3 m apart: some ten thousand on 400 m.
std::shared_ptr<const Project> strewnOver(double side_m)
{
    Project project = blankProject();
    Pattern pattern;
    pattern.id = {"lamp"};
    Falloff falloff;
    falloff.lanes.front().formula.silentAt_m = 15.0;
    pattern.settings.falloff = falloff;
    project.patterns.append(pattern);
    project = withLevel(std::move(project), project.levels[0]->id, [&](Level& level) {
        Plant plant;
        plant.id = {"many"};
        plant.pattern = {"lamp"};
        plant.where = Plant::Where::shape;
        plant.shape = Box{{side_m, side_m, 3.0}};
        plant.apart_m = 3.3;
        level.plants.append(plant);
    });
    return std::make_shared<const Project>(std::move(project));
}

constexpr double large_m = 400.0;
constexpr double small_m = 40.0;

void makingEmitters(benchmark::State& state)
{
    const auto project = strewnOver(large_m);
    const auto planted = plant(project, project->levels[0]->id, nullptr, Ways::find);
    const auto& copies = planted->rules[0].copies;
    for (auto _ : state) {
        List<Emitter> all;
        for (const auto& copy : copies) {
            all.append(*copy);
        }
        benchmark::DoNotOptimize(all);
    }
    state.counters["copies"] = static_cast<double>(copies.size());
}
BENCHMARK(makingEmitters)->Unit(benchmark::kMillisecond);

void planting(benchmark::State& state)
{
    const auto project = strewnOver(large_m);
    for (auto _ : state) {
        benchmark::DoNotOptimize(plant(project, project->levels[0]->id, nullptr, Ways::find));
    }
}
BENCHMARK(planting)->Unit(benchmark::kMillisecond);

void plantingAfterAnEditElsewhere(benchmark::State& state)
{
    const auto project = strewnOver(large_m);
    const auto before = plant(project, project->levels[0]->id, nullptr, Ways::find);
    for (auto _ : state) {
        benchmark::DoNotOptimize(plant(project, project->levels[0]->id, nullptr, Ways::find, before.get()));
    }
}
BENCHMARK(plantingAfterAnEditElsewhere)->Unit(benchmark::kMillisecond);

void hearing(benchmark::State& state)
{
    const auto project = strewnOver(static_cast<double>(state.range(0)));
    const HearingModel model(project, project->levels[0]->id);
    const Moment moment(Ears(Pose{{1.0, 2.0, 1.6}, 0.0, 0.0, 0.0}), TimeSpan{});
    std::vector<Heard> heard;
    HearScratch scratch;
    for (auto _ : state) {
        model.hear(moment, heard, scratch);
        benchmark::DoNotOptimize(heard.data());
    }
    state.counters["heard"] = static_cast<double>(heard.size());
}
BENCHMARK(hearing)->Arg(static_cast<int>(small_m))->Arg(static_cast<int>(large_m))->Unit(benchmark::kMicrosecond);

} // namespace
