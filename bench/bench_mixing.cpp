// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/control.h"
#include "engine/flush_denormals.h"
#include "engine/mixer.h"
#include "engine/scene.h"
#include "engine/stream_line.h"
#include "media/sound_file.h"
#include "media/sound_writer.h"
#include "project/edit.h"

#include <benchmark/benchmark.h>

#include <unistd.h>

#include <cmath>
#include <filesystem>
#include <numbers>
#include <random>

/// What mixing costs per voice and control step (256 frames), against a floor kernel that does the least that a voice
/// of any engine of this kind has to do.
namespace
{

using namespace stone;

SharedBuffer noiseBuffer()
{
    auto buffer = std::make_shared<SampleBuffer>();
    std::mt19937 random(1);
    std::uniform_real_distribution<float> sample(-0.5F, 0.5F);
    buffer->channels.emplace_back(200'000);
    for (float& x : buffer->channels[0]) {
        x = sample(random);
    }
    return buffer;
}

/// The floor: a linearly interpolated read, a one-pole low-pass, a gain ramp, two outputs and one send. Nothing else.
struct FloorVoice {
    const float* samples;
    float position;
    float rate;
    float lowPass = 0.0F;
    float coefficient = 0.3F;
    float gain = 0.1F;
    float slope = 1e-6F;
    float left = 0.6F;
    float right = 0.8F;
    float send = 0.2F;
};

void floorMix(FloorVoice& voice, float* left, float* right, float* send)
{
    float position = voice.position;
    float state = voice.lowPass;
    float gain = voice.gain;
    for (std::size_t i = 0; i < stepFrames; ++i) {
        const auto index = static_cast<int>(position);
        const float t = position - static_cast<float>(index);
        const float x = voice.samples[index] + (voice.samples[index + 1] - voice.samples[index]) * t;
        state += voice.coefficient * (x - state);
        const float y = state * gain;
        left[i] += y * voice.left;
        right[i] += y * voice.right;
        send[i] += y * voice.send;
        gain += voice.slope;
        position += voice.rate;
    }
    voice.lowPass = state;
}

void floorKernel(benchmark::State& state)
{
    const SharedBuffer buffer = noiseBuffer();
    std::vector<FloorVoice> voices;
    for (int i = 0; i < state.range(0); ++i) {
        voices.push_back({buffer->channels[0].data(), static_cast<float>((i * 997) % 150'000) + 0.3F, 1.03F});
    }
    std::vector<float> left(stepFrames);
    std::vector<float> right(stepFrames);
    std::vector<float> send(stepFrames);
    for (auto _ : state) {
        std::fill(left.begin(), left.end(), 0.0F);
        std::fill(right.begin(), right.end(), 0.0F);
        std::fill(send.begin(), send.end(), 0.0F);
        for (FloorVoice& voice : voices) {
            floorMix(voice, left.data(), right.data(), send.data());
        }
        benchmark::DoNotOptimize(left.data());
        benchmark::DoNotOptimize(right.data());
        benchmark::DoNotOptimize(send.data());
    }
    state.counters["per_voice"] = benchmark::Counter(static_cast<double>(state.range(0) * state.iterations()),
                                                     benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}

/// The band filters of that many voices, of which all bands lose something else; moving, the losses go to and fro.
void bandFilters(benchmark::State& state, bool moving)
{
    const BandFilter::Designer designer(48'000.0);
    const auto near = designer({0, -0.5, -1, -2, -3, -5, -8, -13});
    const auto far = designer({-0.5, -1, -2, -3.5, -5, -8, -12, -18});
    std::vector<BandFilter> filters(static_cast<std::size_t>(state.range(0)));
    std::array<float, stepFrames> samples{};
    bool out = false;
    const FlushDenormals mode; // as in the mixer
    for (auto _ : state) {
        for (BandFilter& filter : filters) {
            samples.fill(0.1F);
            filter.process(samples, out && moving ? far : near, out || !moving ? near : far, 48'000.0);
            benchmark::DoNotOptimize(samples.data());
        }
        out = !out;
    }
    state.counters["per_voice"] = benchmark::Counter(static_cast<double>(state.range(0) * state.iterations()),
                                                     benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}

void bandFiltersStill(benchmark::State& state)
{
    bandFilters(state, false);
}

void bandFiltersMoving(benchmark::State& state)
{
    bandFilters(state, true);
}

/// Our mixer with that many voices that ramp all the time. `rate` 1: as recorded; otherwise pitched.
void mixer(benchmark::State& state, double rate, const Effects& effects = {})
{
    const EffectSettings settings = designEffects(effects, 48'000.0);
    std::vector<EchoLine> echoes(effects.echo.on ? static_cast<std::size_t>(state.range(0)) : 0, EchoLine(48'000.0));
    const SharedBuffer buffer = noiseBuffer();
    Mixer mixer(Layout::stereo, 48'000);
    std::vector<float> out(2 * stepFrames);
    std::uint64_t step = 0;
    for (auto _ : state) {
        StepPlan* plan = mixer.plans().free();
        plan->step = step;
        plan->voices.clear();
        for (std::uint32_t i = 0; i < state.range(0); ++i) {
            VoiceOrder order;
            order.slot = i;
            order.generation = 1;
            order.samples = buffer->channels[0].data();
            order.frames = static_cast<std::uint32_t>(buffer->frames());
            order.loop = true;
            order.position = (i * 997) % 150'000 + (rate == 1.0 ? 0.0 : 0.3);
            order.rate = rate;
            order.effects = &settings;
            order.echo = echoes.empty() ? nullptr : &echoes[i];
            const float wobble = step % 2 == 0 ? 0.06F : 0.08F;
            order.target = {wobble, 0.14F - wobble};
            plan->voices.push_back(order);
        }
        mixer.plans().publish();
        mixer.process(out.data(), stepFrames);
        benchmark::DoNotOptimize(out.data());
        ++step;
    }
    state.counters["per_voice"] = benchmark::Counter(static_cast<double>(state.range(0) * state.iterations()),
                                                     benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}

void mixerAsRecorded(benchmark::State& state)
{
    mixer(state, 1.0);
}

void mixerPitched(benchmark::State& state)
{
    mixer(state, 1.03);
}

void mixerEqualised(benchmark::State& state)
{
    Effects effects;
    effects.equaliser = {true, 200, 6, 1000, -6, 1, 5000, 6, {}};
    mixer(state, 1.0, effects);
}

void mixerAllEffects(benchmark::State& state)
{
    Effects effects;
    effects.equaliser = {true, 200, 6, 1000, -6, 1, 5000, 6, {}};
    effects.saturation.on = effects.tremolo.on = effects.echo.on = true;
    mixer(state, 1.0, effects);
}

/// What one step of one voice costs the control thread when its sound is not kept decoded.
void streamStep(benchmark::State& state)
{
    const auto file = std::filesystem::temp_directory_path() / ("stone-echo-bench-" + std::to_string(getpid()) + ".wav");
    {
        SoundWriter writer(file, 1, 48'000);
        writer.write(noiseBuffer()->channels[0]);
        writer.finish();
    }
    const SharedBuffer sound = openSoundFile(file, 48'000, true, Keeping::streamed, std::make_shared<BlockLoader>());
    std::filesystem::remove(file);
    const StreamLine::Source source{*sound, 0, true, 0, static_cast<std::int64_t>(sound->frames())};
    StreamLine line(0.0);
    double place = 0.0;
    for (auto _ : state) {
        place += 256.0;
        benchmark::DoNotOptimize(line.fill(source, place + 2064.0, true));
    }
}

/// One step of a run of short files with gaps.
void courseStep(benchmark::State& state)
{
    auto sound = std::make_shared<Sound>();
    sound->make = Make::run;
    sound->files.resize(8);
    sound->sequence.gapMost_s = 1.0;
    sound->pitchSpread_st = 2.0;
    Course course(sound, std::vector<double>(8, 24'000.0), 48'000.0, 1, "bench");
    std::vector<Piece> pieces;
    double time = 0.0;
    for (auto _ : state) {
        course.during(time, time + 256.0, pieces);
        time += 256.0;
        benchmark::DoNotOptimize(pieces.data());
    }
}

/// One decision of the control thread, ears moving, with `in reach` emitters near and 50 times as many far away.
void controlStep(benchmark::State& state)
{
    const auto near = static_cast<int>(state.range(0));
    Project project = blankProject();
    project.voices = 4096;
    Sound sound;
    sound.id = {"s"};
    sound.files = {{.file = "s.wav"}};
    project.sounds.put(sound);
    project = withLevel(project, {"level"}, [&](Level& level) {
        for (int i = 0; i < near * 51; ++i) {
            Emitter emitter;
            emitter.id = {"e" + std::to_string(i)};
            emitter.sound = sound.id;
            emitter.falloff = FalloffId{"medium"};
            const bool far = i >= near;
            emitter.at = {(far ? 1000.0 : 0.0) + i % 20, (i / 20) % 20 - 10.0 + (far ? i / 100.0 : 0.0), 1.0};
            level.emitters.append(emitter);
        }
    });
    auto document = std::make_shared<const Project>(project);
    const std::size_t count = project.levels[0]->emitters.size();
    const auto material = std::make_shared<const SoundMaterial>(SoundMaterial{document->sounds[0], {noiseBuffer()}});
    auto scene = std::make_shared<Scene>(
        Scene{.model = HearingModel(document, {"level"}), .materials = std::vector<SharedMaterial>(count, material)});
    Control control(Layout::stereo, 48'000);
    control.setScene(scene, 0);
    StepPlan plan;
    plan.voices.reserve(mostVoices);
    std::uint64_t step = 0;
    for (auto _ : state) {
        control.decide(step, {{0.001 * static_cast<double>(step % 1000), 0, 1.6}, 0, 0, 0}, plan);
        ++step;
        benchmark::DoNotOptimize(plan.voices.data());
    }
    state.counters["voices"] = static_cast<double>(plan.voices.size());
}

BENCHMARK(mixerEqualised)->Arg(100)->Arg(1000)->Unit(benchmark::kMicrosecond);
BENCHMARK(mixerAllEffects)->Arg(100)->Arg(1000)->Unit(benchmark::kMicrosecond);
BENCHMARK(streamStep);
BENCHMARK(courseStep);
BENCHMARK(floorKernel)->Arg(100)->Arg(1000)->Arg(4000)->Unit(benchmark::kMicrosecond);
BENCHMARK(bandFiltersStill)->Arg(100)->Unit(benchmark::kMicrosecond);
BENCHMARK(bandFiltersMoving)->Arg(100)->Unit(benchmark::kMicrosecond);
BENCHMARK(mixerAsRecorded)->Arg(100)->Arg(1000)->Arg(4000)->Unit(benchmark::kMicrosecond);
BENCHMARK(mixerPitched)->Arg(100)->Arg(1000)->Arg(4000)->Unit(benchmark::kMicrosecond);
BENCHMARK(controlStep)->Arg(10)->Arg(100)->Arg(400)->Unit(benchmark::kMicrosecond);

} // namespace
