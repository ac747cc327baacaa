// SPDX-License-Identifier: MPL-2.0
#include "level/hurdle.h"

#include <algorithm>
#include <array>
#include <bit>
#include <span>

namespace stone
{

namespace
{

constexpr std::size_t mostStretches = 12;
constexpr double touching_m = 0.05;
constexpr double clear_m = 0.02;
constexpr double firstTry_m = 0.05;
constexpr double growth = 1.6;
constexpr int rounds = 2; ///< of three halvings

/// A wall on the line, from just before it to just behind it, and how far aside a ray past it is free.
struct Hurdle {
    Vec3 before;
    Vec3 behind;
    double blocked_m = 0.0;
    double free_m = 0.0;

    /// Which of the rays so far aside are free, by a bit for each.
    unsigned clear(const Obstacles& obstacles, const Vec3& aside, std::span<const double> by_m) const
    {
        std::array<RayScene::Stretch, RayScene::wide> stretches;
        std::transform(by_m.begin(), by_m.end(), stretches.begin(), [&](double by) {
            return RayScene::Stretch{before + aside * by, behind + aside * by};
        });
        return obstacles.clear(std::span(stretches).first(by_m.size()));
    }
    /// False where no ray gets by up to `furthest_m`.
    bool find(const Obstacles& obstacles, const Vec3& aside, double furthest_m)
    {
        std::array<double, RayScene::wide> by_m{};
        for (double next_m = firstTry_m; next_m <= furthest_m;) {
            std::size_t count = 0;
            for (; count < by_m.size() && next_m <= furthest_m; next_m *= growth) {
                by_m[count++] = next_m;
            }
            const auto first =
                static_cast<std::size_t>(std::countr_zero(clear(obstacles, aside, std::span(by_m).first(count))));
            if (first < count) {
                free_m = by_m[first];
                blocked_m = first > 0 ? by_m[first - 1] : blocked_m;
                return true;
            }
            blocked_m = by_m[count - 1];
        }
        return false;
    }
    /// Comes nearer to its edge, by halving what is left; the seven places of three halvings are asked at once.
    void narrow(const Obstacles& obstacles, const Vec3& aside)
    {
        constexpr std::size_t places = 7;
        for (int round = 0; round < rounds; ++round) {
            std::array<double, places> by_m{};
            for (std::size_t i = 0; i < places; ++i) {
                by_m[i] = blocked_m + (free_m - blocked_m) * static_cast<double>(i + 1) / static_cast<double>(places + 1);
            }
            const unsigned free = clear(obstacles, aside, by_m);
            std::size_t low = 0; // the places below it are blocked, or not asked
            for (std::size_t step = (places + 1) / 2; step > 0; step /= 2) {
                low += (free >> (low + step - 1) & 1U) != 0 ? 0 : step;
            }
            const double above_m = low < places ? by_m[low] : free_m;
            blocked_m = low > 0 ? by_m[low - 1] : blocked_m;
            free_m = above_m;
        }
    }
};

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
    // One that there is no way past ends it: none is looked at closely before all are known to have one.
    std::array<Hurdle, mostStretches> hurdles;
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        hurdles[i].before = ray.from + direction * std::max(stretches[i].first - clear_m, 0.0);
        hurdles[i].behind = ray.from + direction * std::min(stretches[i].second + clear_m, length);
        if (!hurdles[i].find(obstacles, aside, furthest_m)) {
            return {};
        }
    }
    std::vector<Vec3> string{ray.from};
    for (Hurdle& hurdle : std::span(hurdles).first(stretches.size())) {
        hurdle.narrow(obstacles, aside);
        string.push_back(hurdle.before + aside * hurdle.free_m);
        string.push_back(hurdle.behind + aside * hurdle.free_m);
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
