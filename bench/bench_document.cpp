// SPDX-License-Identifier: GPL-3.0-or-later
#include "hearing/model.h"
#include "level/plan_cut.h"
#include "project/edit.h"
#include "project/read.h"
#include "project/write.h"

#include <benchmark/benchmark.h>

#include <cmath>
#include <random>

/// Documents, probes and cuts of a size that real work reaches.
namespace
{

using namespace stone;

Project projectOf(int emitters)
{
    Project project = blankProject();
    Sound sound;
    sound.id = {"s"};
    sound.files = {{.file = "s.wav"}};
    project.sounds.put(sound);
    std::mt19937 random(3);
    std::uniform_real_distribution<double> place(-200.0, 200.0);
    return withLevel(project, {"level"}, [&](Level& level) {
        for (int i = 0; i < emitters; ++i) {
            Emitter emitter;
            emitter.id = {"emitter-" + std::to_string(i)};
            emitter.name = "Emitter " + std::to_string(i);
            emitter.sound = sound.id;
            emitter.falloff = FalloffId{"medium"};
            emitter.at = {place(random), place(random), 1.5};
            level.emitters.append(emitter);
        }
    });
}

void writeDocument(benchmark::State& state)
{
    const Project project = projectOf(static_cast<int>(state.range(0)));
    for (auto _ : state) {
        benchmark::DoNotOptimize(projectText(project));
    }
}

void readDocument(benchmark::State& state)
{
    const std::string text = projectText(projectOf(static_cast<int>(state.range(0))));
    for (auto _ : state) {
        benchmark::DoNotOptimize(readProjectText(text, "bench"));
    }
}

/// Floor of the probe: the distance model alone, as often.
void probeFloor(benchmark::State& state)
{
    const Project project = projectOf(static_cast<int>(state.range(0)));
    const auto& emitters = project.levels[0]->emitters;
    for (auto _ : state) {
        double sum = 0.0;
        for (const auto& emitter : emitters) {
            const Vec3 offset = emitter->at;
            const double d = std::sqrt(glm::dot(offset, offset));
            sum += 20.0 * std::log10(2.0 / (2.0 + (std::max(d, 2.0) - 2.0)));
            sum += std::atan2(offset.x, offset.y);
        }
        benchmark::DoNotOptimize(sum);
    }
}

void probe(benchmark::State& state)
{
    const auto project = std::make_shared<const Project>(projectOf(static_cast<int>(state.range(0))));
    const HearingModel model(project, {"level"});
    for (auto _ : state) {
        benchmark::DoNotOptimize(model.hearAll({{1, 2, 1.6}, 30, 0, 0}, {}));
    }
}

void buildHearingModel(benchmark::State& state)
{
    const auto project = std::make_shared<const Project>(projectOf(static_cast<int>(state.range(0))));
    for (auto _ : state) {
        benchmark::DoNotOptimize(HearingModel(project, {"level"}));
    }
}

/// A field of boxes: `triangles` of them in all, a third of them met by the cut.
void planCut(benchmark::State& state)
{
    Mesh mesh;
    const int boxes = static_cast<int>(state.range(0)) / 12;
    for (int i = 0; i < boxes; ++i) {
        const Vec3 l{3.0 * (i % 200), 3.0 * (i / 200), (i % 3) * 4.0};
        const auto first = static_cast<std::uint32_t>(mesh.points.size());
        for (int c = 0; c < 8; ++c) {
            mesh.points.push_back(l + Vec3{c & 1 ? 2.0 : 0.0, c & 2 ? 2.0 : 0.0, c & 4 ? 3.0 : 0.0});
        }
        static constexpr std::uint32_t faces[12][3] = {{0, 2, 3}, {0, 3, 1}, {4, 5, 7}, {4, 7, 6}, {0, 1, 5}, {0, 5, 4},
                                                       {2, 6, 7}, {2, 7, 3}, {0, 4, 6}, {0, 6, 2}, {1, 3, 7}, {1, 7, 5}};
        for (const auto& face : faces) {
            mesh.triangles.push_back({{first + face[0], first + face[1], first + face[2]}, 0});
        }
    }
    const PlanCutter cutter(mesh);
    for (auto _ : state) {
        benchmark::DoNotOptimize(cutter.at(1.5));
    }
}

BENCHMARK(writeDocument)->Arg(5000)->Unit(benchmark::kMillisecond);
BENCHMARK(readDocument)->Arg(5000)->Unit(benchmark::kMillisecond);
BENCHMARK(probeFloor)->Arg(1000)->Unit(benchmark::kMicrosecond);
BENCHMARK(probe)->Arg(1000)->Unit(benchmark::kMicrosecond);
BENCHMARK(buildHearingModel)->Arg(5000)->Unit(benchmark::kMillisecond);
BENCHMARK(planCut)->Arg(200'000)->Unit(benchmark::kMillisecond);

} // namespace
