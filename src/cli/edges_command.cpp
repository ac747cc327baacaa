// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/commands.h"
#include "level/floor_edges.h"

#include <nlohmann/json.hpp>

#include <cmath>
#include <cstdio>
#include <iostream>

namespace stone::cli
{

namespace
{

using Json = nlohmann::ordered_json;

Json rounded(double metres)
{
    constexpr double millimetres = 1e3;
    return std::isfinite(metres) ? Json(std::round(metres * millimetres) / millimetres) : Json(nullptr);
}

Json jsonOf(const FloorEdge& edge, const std::string& material)
{
    Json points = Json::array();
    for (const Vec3& point : edge.points) {
        points.push_back({rounded(point.x), rounded(point.y), rounded(point.z)});
    }
    return {{"kind", wordOf(edge.kind)}, {"by_m", rounded(edge.by_m)}, {"length_m", rounded(edge.length_m())},
            {"closed", edge.closed},     {"floor_material", material}, {"points", std::move(points)}};
}

} // namespace

int edges(const std::string& path, const std::string& levelName, const std::string& kind, bool json)
{
    const Opened opened = open(path);
    const Level& level = opened.level(levelName);
    const auto ground = opened.ground(level);
    if (!ground) {
        throw UsageError("the level \"" + level.name + "\" has no geometry: edges are those of a level's floor");
    }
    const auto found = ground->edges(level.edges, level.character.start);
    Json all = Json::array();
    std::array<std::pair<std::size_t, double>, edgeKindCount> sums{};
    for (const FloorEdge& edge : found->all()) {
        if (!kind.empty() && kind != wordOf(edge.kind)) {
            continue;
        }
        auto& [count, metres] = sums[static_cast<std::size_t>(edge.kind)];
        ++count;
        metres += edge.length_m();
        if (json) {
            all.push_back(jsonOf(edge, ground->mesh().materials[edge.material]));
        }
    }
    if (json) {
        std::cout << all.dump(2) << '\n';
        return 0;
    }
    for (std::size_t i = 0; i < sums.size(); ++i) {
        if (sums[i].first > 0) {
            std::printf("%-6s %5zu  %10.2f m\n", wordOf(static_cast<EdgeKind>(i)), sums[i].first, sums[i].second);
        }
    }
    return 0;
}

} // namespace stone::cli
