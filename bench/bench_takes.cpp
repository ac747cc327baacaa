// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/control.h"
#include "engine/mixer.h"
#include "engine/steps.h"
#include "project/edit.h"
#include "takes/take_reader.h"
#include "takes/take_recorder.h"

#include <benchmark/benchmark.h>

#include <cmath>
#include <filesystem>
#include <optional>
#include <string>

/// What it costs to know what things cost, and to take down what was heard. The floor of both is the step itself: deciding and
/// mixing of as many emitters, all in earshot.
namespace
{

using namespace stone;

std::shared_ptr<const Scene> sceneWith(int emitters)
{
    Project project = blankProject();
    project.voices = 4096;
    Sound loop;
    loop.id = {"loop"};
    loop.name = "loop";
    loop.files = {{.file = "a.wav"}};
    project.sounds.put(loop);
    project = withLevel(std::move(project), {"level"}, [&](Level& level) {
        for (int i = 0; i < emitters; ++i) {
            Emitter emitter;
            emitter.id = {"e" + std::to_string(i)};
            emitter.name = emitter.id.text;
            emitter.sound = {"loop"};
            emitter.at = {10.0 * std::cos(i * 0.7), 10.0 * std::sin(i * 0.7), 1.6};
            level.emitters.append(emitter);
        }
    });
    auto document = std::make_shared<const Project>(std::move(project));
    auto buffer = std::make_shared<SampleBuffer>();
    buffer->rate = 48'000;
    buffer->channels.assign(1, std::vector<float>(48'000, 0.25F));
    std::vector<SharedMaterial> materials;
    for (const Playable& playable : playablesOf(*document, *document->levels[0])) {
        materials.push_back(std::make_shared<const SoundMaterial>(
            SoundMaterial{playable.sound, {buffer}, designEffects(playable.sound->effects, 48'000)}));
    }
    HearingModel model(std::make_shared<const World>(document, document->levels[0]->id, nullptr, lengthsOf(materials, 1)));
    return std::make_shared<Scene>(
        Scene{.model = std::move(model), .materials = std::move(materials), .waits = true, .networks = {}});
}

/// Walks round in the middle, and turns.
Pose walking(std::uint64_t step)
{
    const double t = static_cast<double>(step) * static_cast<double>(stepFrames) / 48'000.0;
    return {{2.0 * std::sin(t), 2.0 * std::cos(t), 1.6}, 40.0 * t, 0, 0};
}

/// What of that is for knowing what it costs: as many readings of the clock, and the counting of each voice.
void measuring(benchmark::State& state)
{
    const auto voices = static_cast<int>(state.range(0));
    StageTimes times;
    WorkTally tally;
    VoiceOrder order;
    order.target[0] = order.target[1] = 0.5F;
    const Effects effects;
    const std::vector<SoundId> sounds{{"loop"}};
    const std::array<const StageTimes*, 1> all{&times};
    for (auto _ : state) {
        {
            StageTimer control(times, CostStage::deciding);
            control.next(CostStage::ordering);
        }
        {
            const StageTimer mixing(times, CostStage::voices);
        }
        {
            StageTimer space(times, CostStage::reflections);
            space.next(CostStage::rooms);
            space.next(CostStage::ears);
        }
        {
            const StageTimer out(times, CostStage::output);
        }
        for (int i = 0; i < voices; ++i) {
            tally.add(0, order, effects);
        }
        tally.endStep();
        if (tally.steps() >= 94) {
            benchmark::DoNotOptimize(tally.take(all, 48'000.0, sounds));
        }
    }
}

/// A step as it is live, walking: decided, mixed, its costs measured. With a take of it, sound and all, or without.
template <bool recorded> void liveStep(benchmark::State& state)
{
    const std::filesystem::path file = std::filesystem::temp_directory_path() / "stone-echo-bench.take";
    Control control(Layout::stereo, 48'000);
    Mixer mixer(Layout::stereo, 48'000);
    control.setScene(sceneWith(static_cast<int>(state.range(0))), 0);
    TakeInfo info;
    info.channels = 2;
    std::optional<TakeRecorder> recorder;
    if (recorded) {
        recorder.emplace(file, info, true, true);
    }
    std::vector<float> block(2 * stepFrames);
    std::uint64_t step = 0;
    for (auto _ : state) {
        control.decide(step, walking(step), *mixer.plans().free());
        control.measureCosts(mixer.times());
        mixer.plans().publish();
        mixer.process(block.data(), stepFrames);
        if (recorded) {
            recorder->decided(step, {}, control);
            recorder->sound(static_cast<double>(step * stepFrames) / 48'000.0, block);
        }
        ++step;
    }
    if (recorded) {
        recorder->finish();
        state.counters["MB an hour"] = static_cast<double>(std::filesystem::file_size(file)) / 1e6 * 3'600.0 /
                                       (static_cast<double>(step * stepFrames) / 48'000.0);
        std::filesystem::remove(file);
    }
}

/// A take of an hour with 200 emitters is opened and read for drawing.
void openAnHour(benchmark::State& state)
{
    const std::filesystem::path file = std::filesystem::temp_directory_path() / "stone-echo-hour.take";
    {
        Control control(Layout::stereo, 48'000);
        control.setScene(sceneWith(200), 0);
        TakeInfo info;
        info.channels = 2;
        TakeRecorder recorder(file, info, false, true);
        recorder.beginAt(0.0);
        StepPlan plan;
        plan.voices.reserve(mostVoices);
        const std::vector<float> silent(2 * 9 * stepFrames);
        for (std::uint64_t step = 0; step < 3'600 * 48'000 / stepFrames; step += 9) {
            control.decide(step, walking(step), plan);
            recorder.decided(step, {}, control);
            recorder.sound(static_cast<double>(step * stepFrames) / 48'000.0, silent);
        }
        recorder.finish();
    }
    for (auto _ : state) {
        const Take take(file);
        benchmark::DoNotOptimize(take.overview());
    }
    state.counters["MB"] = static_cast<double>(std::filesystem::file_size(file)) / 1e6;
    std::filesystem::remove(file);
}

} // namespace

BENCHMARK(measuring)->Arg(100)->Arg(200)->Unit(benchmark::kMicrosecond);
// The processor's time of all threads: a step lasts 5333 us.
BENCHMARK(liveStep<false>)->Arg(100)->Arg(200)->Unit(benchmark::kMicrosecond)->MeasureProcessCPUTime();
BENCHMARK(liveStep<true>)->Arg(200)->Unit(benchmark::kMicrosecond)->MeasureProcessCPUTime();
BENCHMARK(openAnHour)->Unit(benchmark::kMillisecond)->Iterations(3);
