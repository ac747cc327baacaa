// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/lane.h"
#include "engine/mixer.h"
#include "engine/voicing.h"
#include "spatial/head_model.h"
#include "spatial/panning.h"
#include "spatial/sofa.h"
#include "spatial/vbap.h"

#include <benchmark/benchmark.h>

#include <cmath>
#include <random>

/// What placing sounds costs: lanes, panners, and voices for loudspeakers and for the two ears, the last against a floor
/// in the same run: a filter of 128 taps for each ear in direct form, which is what the ears take at least when each voice
/// is filtered by itself.
namespace
{

using namespace stone;

constexpr std::size_t firTaps = 128;

std::vector<float> noise(std::size_t count)
{
    std::mt19937 random(1);
    std::uniform_real_distribution<float> sample(-0.5F, 0.5F);
    std::vector<float> x(count);
    for (float& value : x) {
        value = sample(random);
    }
    return x;
}

/// One step of one voice: output by output, so that the compiler can take many outputs at once.
void firFloor(const float* x, const float* taps, float* out)
{
    for (std::size_t tap = 0; tap < firTaps; ++tap) {
        const float h = taps[tap];
        const float* from = x + firTaps - tap;
        for (std::size_t i = 0; i < stepFrames; ++i) {
            out[i] += h * from[i];
        }
    }
}

void firTwoEars(benchmark::State& state)
{
    const auto x = noise(200'000);
    const auto left = noise(firTaps);
    const auto right = noise(firTaps + 1);
    std::array<float, stepFrames> outLeft{};
    std::array<float, stepFrames> outRight{};
    for (auto _ : state) {
        outLeft.fill(0.0F);
        outRight.fill(0.0F);
        for (std::int64_t voice = 0; voice < state.range(0); ++voice) {
            const float* from = x.data() + (voice * 997) % 150'000;
            firFloor(from, left.data(), outLeft.data());
            firFloor(from, right.data(), outRight.data());
        }
        benchmark::DoNotOptimize(outLeft.data());
        benchmark::DoNotOptimize(outRight.data());
    }
    state.counters["share_of_core"] = benchmark::Counter(static_cast<double>(state.iterations()) * 256.0 / 48'000.0,
                                                         benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}

/// Voices round the ears, all of them turning by 2 degrees a step (375 degrees a second) or still.
void voices(benchmark::State& state, Layout layout, const SharedHead& head, bool turning, bool filtered)
{
    const std::vector<float> samples = noise(200'000);
    Mixer mixer(layout, 48'000);
    std::vector<float> out(channelsOf(layout) * stepFrames);
    Emitter emitter;
    std::uint64_t step = 0;
    for (auto _ : state) {
        StepPlan* plan = mixer.plans().free();
        plan->step = step;
        plan->voices.clear();
        for (std::uint32_t i = 0; i < state.range(0); ++i) {
            Heard heard;
            heard.level_db = -20.0;
            heard.direction = unitOf(static_cast<double>(i) * 7.0 + (turning ? 2.0 * static_cast<double>(step) : 0.0), i % 60);
            VoiceOrder order;
            order.slot = i;
            order.generation = 1;
            order.samples = samples.data();
            order.frames = static_cast<std::uint32_t>(samples.size());
            order.loop = true;
            order.position = (i * 997) % 150'000;
            order.lowPass_hz = filtered ? 4000.0F : 20'000.0F;
            order.highPass_hz = filtered ? 200.0F : 20.0F;
            shapeVoice({layout, head.get(), emitter, heard, 1, 0, 0.0}, order);
            plan->voices.push_back(order);
        }
        mixer.plans().publish();
        mixer.process(out.data(), stepFrames);
        benchmark::DoNotOptimize(out.data());
        ++step;
    }
    state.counters["share_of_core"] = benchmark::Counter(static_cast<double>(state.iterations()) * 256.0 / 48'000.0,
                                                         benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}

void binauralBuiltIn(benchmark::State& state)
{
    voices(state, Layout::binaural, builtInHeadFilters(48'000), true, false);
}
void binauralMeasured(benchmark::State& state)
{
    voices(state, Layout::binaural, readSofa(installedSofa(), 48'000), true, false);
}
void binauralStill(benchmark::State& state)
{
    voices(state, Layout::binaural, builtInHeadFilters(48'000), false, false);
}
void loudspeakers714(benchmark::State& state)
{
    voices(state, Layout::surround714, {}, true, false);
}
void stereoFiltered(benchmark::State& state)
{
    voices(state, Layout::stereo, {}, true, true);
}

void lane(benchmark::State& state, const Lane& lane)
{
    double x = 0.0;
    for (auto _ : state) {
        benchmark::DoNotOptimize(laneAt(lane, x));
        x = x > 30.0 ? 0.0 : x + 0.1;
    }
}

void laneFormula(benchmark::State& state)
{
    Lane formula;
    formula.formula.silentAt_m = 30.0;
    lane(state, formula);
}

void laneCurve(benchmark::State& state)
{
    Lane curve;
    curve.shape = LaneShape::curve;
    for (int i = 0; i < 16; ++i) {
        curve.curve.push_back({2.0 * i, -3.0 * i, Segment::smooth});
    }
    lane(state, curve);
}

void spread714(benchmark::State& state)
{
    const Vbap vbap(speakersOf(Layout::surround714));
    double azimuth = 0.0;
    for (auto _ : state) {
        benchmark::DoNotOptimize(vbap.gains(unitOf(azimuth, 10.0), static_cast<double>(state.range(0))));
        azimuth += 1.0;
    }
}

BENCHMARK(firTwoEars)->Arg(256)->Unit(benchmark::kMicrosecond);
BENCHMARK(binauralBuiltIn)->Arg(256)->Unit(benchmark::kMicrosecond);
BENCHMARK(binauralMeasured)->Arg(256)->Unit(benchmark::kMicrosecond);
BENCHMARK(binauralStill)->Arg(256)->Unit(benchmark::kMicrosecond);
BENCHMARK(loudspeakers714)->Arg(256)->Unit(benchmark::kMicrosecond);
BENCHMARK(stereoFiltered)->Arg(256)->Unit(benchmark::kMicrosecond);
BENCHMARK(laneFormula);
BENCHMARK(laneCurve);
BENCHMARK(spread714)->Arg(0)->Arg(120);

} // namespace
