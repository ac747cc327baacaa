// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/late_network.h"
#include "dsp/uniform_convolver.h"
#include "engine/control.h"
#include "engine/echo_taps.h"
#include "hearing/model.h"
#include "level/ground.h"
#include "project/edit.h"
#include "project/room.h"

#include <benchmark/benchmark.h>

#include <cmath>
#include <random>

/// What rooms cost: a network against the least that one of this kind has to do, and a control step in a town of rooms.
namespace
{

using namespace stone;

constexpr std::size_t frames = LateNetwork::blockFrames;
constexpr double rate = 48'000.0;

/// The floor: sixteen delay lines, each with a one-pole low-pass, and a Hadamard matrix.
void floorOfANetwork(benchmark::State& state)
{
    constexpr std::size_t lines = 16;
    constexpr std::size_t length = 1U << 13U;
    const auto design = LateNetwork::design(reverbPoints()[3].reverb.rt60_s, 6000.0, 0.02, rate);
    std::vector<std::array<float, lines>> memory(length);
    std::array<float, lines> kept{};
    std::array<float, frames> in{};
    in[0] = 1.0F;
    std::array<float, frames> out{};
    std::size_t at = 0;
    for (auto _ : state) {
        for (std::size_t i = 0; i < frames; ++i) {
            std::array<float, lines> x;
            for (std::size_t line = 0; line < lines; ++line) {
                x[line] = memory[(at + length - design.delays[line] % length) & (length - 1)][line];
                kept[line] += 0.4F * (x[line] - kept[line]);
                x[line] = kept[line];
            }
            for (std::size_t half = 1; half < lines; half *= 2) {
                for (std::size_t k = 0; k < lines; k += 2 * half) {
                    for (std::size_t j = k; j < k + half; ++j) {
                        const float a = x[j];
                        const float b = x[j + half];
                        x[j] = 0.70710678F * (a + b);
                        x[j + half] = 0.70710678F * (a - b);
                    }
                }
            }
            out[i] = x[0] + x[1];
            for (std::size_t line = 0; line < lines; ++line) {
                memory[at][line] = 0.98F * x[line] + in[i];
            }
            at = (at + 1) & (length - 1);
        }
        benchmark::DoNotOptimize(out);
    }
}
BENCHMARK(floorOfANetwork)->Unit(benchmark::kMicrosecond);

void network(benchmark::State& state)
{
    LateNetwork room(rate);
    const auto design = LateNetwork::design(reverbPoints()[3].reverb.rt60_s, 6000.0, 0.02, rate);
    LateNetwork::Block in{};
    std::mt19937 chance(1);
    std::uniform_real_distribution<float> even(-0.1F, 0.1F);
    std::generate(in.begin(), in.end(), [&] { return even(chance); });
    std::array<LateNetwork::Block, LateNetwork::outputs> out;
    for (auto _ : state) {
        room.process(in, design, out);
        benchmark::DoNotOptimize(out);
    }
}
BENCHMARK(network)->Unit(benchmark::kMicrosecond);

/// An impulse response of four seconds on two channels.
void response(benchmark::State& state)
{
    std::vector<float> samples(4 * static_cast<std::size_t>(rate));
    std::mt19937 chance(1);
    std::uniform_real_distribution<float> even(-0.1F, 0.1F);
    std::generate(samples.begin(), samples.end(), [&] { return even(chance); });
    const UniformConvolver::Response left(samples);
    std::reverse(samples.begin(), samples.end());
    const UniformConvolver::Response right(samples);
    UniformConvolver convolver(left.partitions());
    UniformConvolver::Block in{};
    std::generate(in.begin(), in.end(), [&] { return even(chance); });
    UniformConvolver::Block out;
    for (auto _ : state) {
        convolver.in(in);
        convolver.out(left, out);
        benchmark::DoNotOptimize(out);
        convolver.out(right, out);
        benchmark::DoNotOptimize(out);
    }
}
BENCHMARK(response)->Unit(benchmark::kMicrosecond);

/// Twenty-four reflections of one sound to two loudspeakers; and the least that takes: as many copies with a gain.
void floorOfReflections(benchmark::State& state)
{
    std::vector<float> line(1U << 14U, 0.1F);
    std::array<std::array<float, frames>, 2> sums{};
    for (auto _ : state) {
        for (std::size_t tap = 0; tap < EchoTaps::most; ++tap) {
            for (auto& sum : sums) {
                for (std::size_t i = 0; i < frames; ++i) {
                    sum[i] += 0.1F * line[tap * 311 + i];
                }
            }
        }
        benchmark::DoNotOptimize(sums);
        sums = {};
    }
}
BENCHMARK(floorOfReflections)->Unit(benchmark::kMicrosecond);

void reflections(benchmark::State& state)
{
    EchoTaps echoes(rate);
    std::array<EchoTap, EchoTaps::most> taps{};
    for (std::uint32_t i = 0; i < taps.size(); ++i) {
        taps[i].name = i + 1;
        taps[i].bounces = i < 6 ? 1 : 2;
        taps[i].delay = 100.3F + 211.7F * static_cast<float>(i);
        taps[i].gains = {0.1F, 0.07F};
    }
    EchoTaps::Block in{};
    in.fill(0.1F);
    std::array<EchoTaps::Block, 2> sums{};
    for (auto _ : state) {
        echoes.process(in, taps, {}, sums);
        benchmark::DoNotOptimize(sums);
        sums = {};
    }
}
BENCHMARK(reflections)->Unit(benchmark::kMicrosecond);

void designOfANetwork(benchmark::State& state)
{
    for (auto _ : state) {
        benchmark::DoNotOptimize(LateNetwork::design(reverbPoints()[3].reverb.rt60_s, 6000.0, 0.02, rate));
    }
}
BENCHMARK(designOfANetwork)->Unit(benchmark::kMicrosecond);

/// A level on one triangle of ground, low to high, with whatever `fill` puts into it, and one sound, "loop".
template <class Fill> std::shared_ptr<const Scene> sceneOn(double low, double high, Fill&& fill)
{
    Project project = blankProject();
    Sound loop;
    loop.id = {"loop"};
    loop.files = {{.file = "a.wav"}};
    project.sounds.put(loop);
    Mesh mesh;
    mesh.materials = {"brick"};
    mesh.points = {{low, low, 0}, {high, low, 0}, {high, high, 0}};
    mesh.triangles = {{{0, 1, 2}, 0}};
    auto document = std::make_shared<const Project>(withLevel(std::move(project), {"level"}, fill));
    auto ground = std::make_shared<const Ground>(std::make_shared<const Mesh>(std::move(mesh)));
    auto world = std::make_shared<const World>(document, document->levels[0]->id, ground, LengthOf{});
    HearingModel model(std::move(world));
    auto networks = networksOf(model, 48'000, {});
    return std::make_shared<const Scene>(
        Scene{.model = std::move(model), .materials = {nullptr}, .networks = std::move(networks)});
}

/// As loud at any distance.
Emitter flatEmitter(std::size_t number, const Vec3& at)
{
    Emitter emitter;
    emitter.id = {"e" + std::to_string(number)};
    emitter.sound = {"loop"};
    emitter.at = at;
    Falloff flat;
    flat.lanes[0].on = false;
    emitter.falloff = flat;
    return emitter;
}

/// Control steps of somebody who walks eastwards from a place, and after so many steps begins again.
void walk(benchmark::State& state, const std::shared_ptr<const Scene>& scene, const Vec3& from, std::uint64_t steps)
{
    Control control(Layout::stereo, 48'000);
    control.setScene(scene, 0);
    StepPlan plan;
    plan.voices.reserve(64);
    plan.rooms.reserve(mostRooms);
    std::uint64_t step = 0;
    for (auto _ : state) {
        const double walked_m = 0.0075 * static_cast<double>(step % steps);
        control.decide(step++, Ears(from + Vec3{walked_m, 0.0, 0.0}, 0.0, 0.0, 0.0), plan);
    }
}

/// Rooms in rows of 20, each 6 x 6 x 3 m, with a door to the east and one to the north; emitters spread over all of them.
void stepInATownOfRooms(benchmark::State& state)
{
    const auto rooms = static_cast<int>(state.range(0));
    const auto emitters = static_cast<std::size_t>(state.range(1));
    const auto town = sceneOn(-5.0, 200.0, [&](Level& level) {
        for (int i = 0; i < rooms; ++i) {
            const double x = 6.2 * (i % 20);
            const double y = 6.2 * (i / 20);
            Room room;
            room.id = {"r" + std::to_string(i)};
            room.at = {x, y, 0};
            room.shape = Box{{6, 6, 3}};
            level.rooms.append(room);
            for (int k = 0; k < 2; ++k) {
                Opening door;
                door.id = {"o" + std::to_string(2 * i + k)};
                door.from = k == 0 ? Vec2{x + 3.1, y - 0.5} : Vec2{x - 0.5, y + 3.1};
                door.to = k == 0 ? Vec2{x + 3.1, y + 0.5} : Vec2{x + 0.5, y + 3.1};
                level.openings.append(door);
            }
        }
        std::mt19937 chance(3);
        std::uniform_real_distribution<double> even(0, 1);
        for (std::size_t i = 0; i < emitters; ++i) {
            level.emitters.append(flatEmitter(i, {6.2 * 20 * even(chance), 6.2 * rooms / 20 * even(chance), 1.5}));
        }
    });
    walk(state, town, {40.0, 40.0, 1.6}, 2000);
}
BENCHMARK(stepInATownOfRooms)
    ->ArgNames({"rooms", "emitters"})
    ->Args({30, 200})
    ->Args({300, 200})
    ->Args({300, 20})
    ->Unit(benchmark::kMicrosecond);

/// Outdoors among 200 emitters, with huts 70 m away: what is far should cost little.
void stepBesideHuts(benchmark::State& state)
{
    const auto yard = sceneOn(-100.0, 300.0, [&](Level& level) {
        for (int i = 0; i < static_cast<int>(state.range(0)); ++i) {
            const double turn = 0.02 * i;
            Room room;
            room.id = {"r" + std::to_string(i)};
            room.at = {70.0 * std::cos(turn) + 4.0 * (i % 5), 70.0 * std::sin(turn) + 4.0 * (i / 300.0), 0};
            room.shape = Box{{3, 3, 3}};
            level.rooms.append(room);
            Opening door;
            door.id = {"o" + std::to_string(i)};
            door.from = {room.at.x, room.at.y + 1.0};
            door.to = {room.at.x, room.at.y + 2.0};
            level.openings.append(door);
        }
        std::mt19937 chance(3);
        std::uniform_real_distribution<double> even(-10, 10);
        for (std::size_t i = 0; i < 200; ++i) {
            level.emitters.append(flatEmitter(i, {even(chance), even(chance), 1.5}));
        }
    });
    walk(state, yard, {-3.0, 0.0, 1.6}, 1000);
}
BENCHMARK(stepBesideHuts)->ArgName("huts")->Arg(10)->Arg(300)->Unit(benchmark::kMicrosecond);

} // namespace
