// SPDX-License-Identifier: GPL-3.0-or-later
#include "level/edge_finder.h"

#include <benchmark/benchmark.h>

#include <cmath>
#include <memory>
#include <random>

/// What finding the edges of a floor of 200 000 triangles costs, half of them hills and half of them blocks that stand on them,
/// against one ray for each triangle; and what it costs to ask what lies ahead, in that level and in one a hundredth as large.
namespace
{

using namespace stone;

void addBlock(Mesh& mesh, const Vec3& low, const Vec3& high)
{
    const auto first = static_cast<std::uint32_t>(mesh.points.size());
    for (const double z : {low.z, high.z}) {
        mesh.points.insert(mesh.points.end(), {{low.x, low.y, z}, {high.x, low.y, z}, {high.x, high.y, z}, {low.x, high.y, z}});
    }
    constexpr std::uint32_t faces[12][3] = {{0, 2, 1}, {0, 3, 2}, {4, 5, 6}, {4, 6, 7}, {0, 1, 5}, {0, 5, 4},
                                            {1, 2, 6}, {1, 6, 5}, {2, 3, 7}, {2, 7, 6}, {3, 0, 4}, {3, 4, 7}};
    for (const auto& face : faces) {
        mesh.triangles.push_back({{first + face[0], first + face[1], first + face[2]}});
    }
}

/// Hills of squares of two metres, and blocks of all heights on them.
std::shared_ptr<const Ground> hills(std::uint32_t squares)
{
    Mesh mesh;
    mesh.materials = {""};
    const auto height = [](double x, double y) { return 3.0 * std::sin(0.025 * x) * std::cos(0.02 * y); };
    for (std::uint32_t row = 0; row <= squares; ++row) {
        for (std::uint32_t column = 0; column <= squares; ++column) {
            mesh.points.emplace_back(2.0 * column, 2.0 * row, height(2.0 * column, 2.0 * row));
        }
    }
    for (std::uint32_t row = 0; row < squares; ++row) {
        for (std::uint32_t column = 0; column < squares; ++column) {
            const std::uint32_t a = row * (squares + 1) + column;
            mesh.triangles.push_back({{a, a + 1, a + squares + 2}});
            mesh.triangles.push_back({{a, a + squares + 2, a + squares + 1}});
        }
    }
    std::mt19937 chance(1);
    std::uniform_real_distribution<double> place(0.0, 2.0 * squares - 4.0);
    std::uniform_real_distribution<double> size(0.5, 4.0);
    const double heights[] = {0.1, 0.3, 1.0, 3.0};
    for (std::uint32_t i = 0; i < squares * squares / 6; ++i) {
        const Vec2 at{place(chance), place(chance)};
        const double wide = size(chance);
        const double floor = height(at.x, at.y);
        addBlock(mesh, {at, floor - 1.0}, {at.x + wide, at.y + wide, floor + heights[i % 4]});
    }
    return std::make_shared<const Ground>(std::make_shared<const Mesh>(std::move(mesh)));
}

constexpr std::uint32_t large = 224; ///< squares on a side: 200 000 triangles
constexpr std::uint32_t small = 22;

const std::shared_ptr<const Ground>& largeHills()
{
    static const auto ground = hills(large);
    return ground;
}

void rayForEachTriangle(benchmark::State& state)
{
    const auto& ground = largeHills();
    std::vector<Ground::Surface> surfaces;
    for (auto _ : state) {
        std::mt19937 chance(2);
        std::uniform_real_distribution<double> place(0.0, 2.0 * large);
        for (std::size_t i = 0; i < ground->mesh().triangles.size(); ++i) {
            ground->column({place(chance), place(chance)}, surfaces);
            benchmark::DoNotOptimize(surfaces.data());
        }
    }
    state.counters["triangles"] = static_cast<double>(ground->mesh().triangles.size());
}

void edgesOfLargeLevel(benchmark::State& state)
{
    for (auto _ : state) {
        benchmark::DoNotOptimize(findFloorEdges(*largeHills(), {}));
    }
}

void whatLiesAhead(benchmark::State& state)
{
    const bool isLarge = state.range(0) == large;
    const auto ground = isLarge ? largeHills() : hills(small);
    const FloorEdges edges(findFloorEdges(*ground, {}));
    EdgeKindSet kinds;
    kinds.set();
    std::mt19937 chance(4);
    std::uniform_real_distribution<double> place(4.0, 2.0 * static_cast<double>(state.range(0)) - 4.0);
    std::uniform_real_distribution<double> turn(0.0, 360.0);
    std::vector<Ground::Surface> surfaces;
    for (auto _ : state) {
        const Vec2 at{place(chance), place(chance)};
        ground->column(at, surfaces);
        benchmark::DoNotOptimize(
            edges.aheadOfEach({at, surfaces.empty() ? 0.0 : surfaces.front().height_m}, turn(chance), 15.0, kinds, 6.0));
    }
}

BENCHMARK(rayForEachTriangle)->Unit(benchmark::kMillisecond);
BENCHMARK(edgesOfLargeLevel)->Unit(benchmark::kMillisecond);
BENCHMARK(whatLiesAhead)->Arg(large)->Arg(small)->Unit(benchmark::kMicrosecond);

} // namespace
