// SPDX-License-Identifier: MPL-2.0
#include "level/hurdle.h"

namespace stone
{

namespace
{

constexpr std::size_t mostStretches = 12;
constexpr double touching_m = 0.05;
constexpr double clear_m = 0.02;
constexpr double firstTry_m = 0.05;
constexpr double growth = 1.6;
constexpr int halvings = 6;

/// How far aside a ray past one wall is free; none up to `furthest_m`.
std::optional<double> clearAside(const Obstacles& obstacles, const Vec3& before, const Vec3& behind, const Vec3& aside,
                                 double furthest_m)
{
    const auto free = [&](double by_m) { return obstacles.clear(before + aside * by_m, behind + aside * by_m); };
    double blocked_m = 0.0;
    double free_m = firstTry_m;
    while (!free(free_m)) {
        blocked_m = free_m;
        free_m *= growth;
        if (free_m > furthest_m) {
            return {};
        }
    }
    for (int i = 0; i < halvings; ++i) {
        const double middle = (blocked_m + free_m) / 2.0;
        (free(middle) ? free_m : blocked_m) = middle;
    }
    return free_m;
}

/// Stretches of the line on which something stands, those that nearly touch as one.
std::vector<std::pair<double, double>> stretchesOf(std::span<const Obstacles::Crossing> walls)
{
    std::vector<std::pair<double, double>> stretches;
    for (const Obstacles::Crossing& wall : walls) {
        if (!stretches.empty() && wall.enters_m - stretches.back().second <= touching_m) {
            stretches.back().second = std::max(stretches.back().second, wall.leaves_m);
        } else {
            stretches.emplace_back(wall.enters_m, wall.leaves_m);
        }
    }
    return stretches;
}

} // namespace

std::optional<PastWay> wayPast(const Obstacles& obstacles, const Obstacles::Ray& ray,
                               std::span<const Obstacles::Crossing> walls, const Vec3& aside, double furthest_m)
{
    const double length = glm::length(ray.to - ray.from);
    const Vec3 direction = (ray.to - ray.from) / length;
    const auto stretches = stretchesOf(walls);
    if (stretches.empty() || stretches.size() > mostStretches) {
        return {};
    }
    std::vector<Vec3> string{ray.from};
    for (const auto& [enters_m, leaves_m] : stretches) {
        const Vec3 before = ray.from + direction * std::max(enters_m - clear_m, 0.0);
        const Vec3 behind = ray.from + direction * std::min(leaves_m + clear_m, length);
        const auto by_m = clearAside(obstacles, before, behind, aside, furthest_m);
        if (!by_m) {
            return {};
        }
        string.push_back(before + aside * *by_m);
        string.push_back(behind + aside * *by_m);
    }
    string.push_back(ray.to);
    const auto free = [&](std::size_t from, std::size_t to) {
        return obstacles.clear({.from = string[from],
                                .to = string[to],
                                .clearFrom_m = from == 0 ? ray.clearFrom_m : 0.0,
                                .clearTo_m = to + 1 == string.size() ? ray.clearTo_m : 0.0,
                                .without = ray.without});
    };
    PastWay past;
    for (std::size_t at = 0; at + 1 < string.size();) {
        std::size_t next = string.size() - 1;
        while (next > at && !free(at, next)) {
            --next;
        }
        if (next == at) {
            return {};
        }
        past.length_m += glm::length(string[next] - string[at]);
        if (next + 1 < string.size()) {
            past.bends.push_back(string[next]);
        }
        at = next;
    }
    return past;
}

} // namespace stone
