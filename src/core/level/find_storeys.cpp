// SPDX-License-Identifier: MPL-2.0
#include "level/find_storeys.h"

#include "level/sets.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <utility>

namespace stone
{

namespace
{

constexpr double leastSquare_m = 0.5;
constexpr double mostSquares = 400.0; ///< on a side
constexpr double headroom_m = 1.8;
constexpr double stepUp_m = 0.1;    ///< one walks up so much beside what a slope of 45 degrees rises
constexpr double slice_m = 0.05;    ///< heights are told apart so finely
constexpr double step_m = 0.3;      ///< what lies within it of a floor is the same floor
constexpr double apart_m = 1.6;     ///< storeys are at least so far apart
constexpr double leastArea_m2 = 20; ///< of a storey
constexpr double aloneShare = 0.1;  ///< of the largest floor is one that cannot be walked to, at least
constexpr double cut_m = 1.5;       ///< above its floor the Plan is cut
constexpr double steepest = 0.7;    ///< least upward part of a floor's normal

/// What lies under and over each square of a grid, seen from above.
class Columns
{
public:
    struct Floor {
        double height_m;
        bool covered;
    };

    Columns(const Mesh& mesh, double metresPerUnit)
    {
        const auto [low, high] = mesh.bounds();
        low_ = Vec2(low) * metresPerUnit;
        const Vec2 size = Vec2(high - low) * metresPerUnit;
        square_m_ = std::max(leastSquare_m, std::max(size.x, size.y) / mostSquares);
        across_ = static_cast<std::size_t>(size.x / square_m_) + 1;
        up_ = static_cast<std::size_t>(size.y / square_m_) + 1;
        surfaces_.resize(across_ * up_);
        walls_.resize(across_ * up_);
        for (const Mesh::Triangle& triangle : mesh.triangles) {
            add(mesh.points[triangle.corners[0]] * metresPerUnit, mesh.points[triangle.corners[1]] * metresPerUnit,
                mesh.points[triangle.corners[2]] * metresPerUnit);
        }
        for (auto& column : surfaces_) {
            std::sort(column.begin(), column.end());
        }
    }

    double square_m() const { return square_m_; }
    std::size_t across() const { return across_; }
    std::size_t size() const { return surfaces_.size(); }

    Vec2 middleOf(std::size_t square) const
    {
        return low_ + square_m_ * (Vec2{static_cast<double>(square % across_), static_cast<double>(square / across_)} + 0.5);
    }

    /// Whether a wall stands in the way of somebody who stands there, at that height.
    bool walled(std::size_t square, double height_m) const
    {
        return std::any_of(walls_[square].begin(), walls_[square].end(), [height_m](const auto& wall) {
            return wall.second > height_m + step_m && wall.first < height_m + headroom_m;
        });
    }

    /// What can be stood on in a square, from below.
    std::vector<Floor> floorsOf(std::size_t square) const
    {
        std::vector<Floor> floors;
        const auto& column = surfaces_[square];
        for (std::size_t i = 0; i < column.size(); ++i) {
            const auto& [height, carries] = column[i];
            const auto over = std::find_if(column.begin() + static_cast<std::ptrdiff_t>(i), column.end(),
                                           [h = height](const auto& surface) { return surface.first > h + slice_m; });
            if (carries && (over == column.end() || over->first >= height + headroom_m)) {
                floors.push_back({height, over != column.end()});
            }
        }
        return floors;
    }

private:
    void add(const Vec3& a, const Vec3& b, const Vec3& c)
    {
        const Vec3 normal = glm::cross(b - a, c - a);
        const double length = glm::length(normal);
        constexpr double upright = 0.05;
        if (length > 0.0 && std::abs(normal.z) < upright * length) {
            addUpright(a, b, c);
        }
        if (length <= 0.0 || std::abs(normal.z) < 1e-6 * length) {
            return; // seen from above it is a line
        }
        const bool carries = normal.z / length >= steepest;
        const auto first = [&](double least, double from) {
            return static_cast<std::size_t>(std::max(0.0, std::ceil((least - from) / square_m_ - 0.5)));
        };
        const auto last = [&](double most, double from, std::size_t count) {
            return std::min(count, static_cast<std::size_t>(std::max(0.0, std::floor((most - from) / square_m_ - 0.5) + 1.0)));
        };
        const std::size_t right = last(std::max({a.x, b.x, c.x}), low_.x, across_);
        const std::size_t top = last(std::max({a.y, b.y, c.y}), low_.y, up_);
        for (std::size_t y = first(std::min({a.y, b.y, c.y}), low_.y); y < top; ++y) {
            for (std::size_t x = first(std::min({a.x, b.x, c.x}), low_.x); x < right; ++x) {
                const Vec2 p = low_ + square_m_ * (Vec2{static_cast<double>(x), static_cast<double>(y)} + 0.5);
                if (inside(p, Vec2(a), Vec2(b), Vec2(c))) {
                    const double height = a.z - (normal.x * (p.x - a.x) + normal.y * (p.y - a.y)) / normal.z;
                    surfaces_[y * across_ + x].emplace_back(height, carries);
                }
            }
        }
    }

    /// A wall: seen from above about a line, along which nobody stands.
    void addUpright(const Vec3& a, const Vec3& b, const Vec3& c)
    {
        const std::pair<Vec3, Vec3> sides[] = {{a, b}, {b, c}, {c, a}};
        const auto longest = *std::max_element(std::begin(sides), std::end(sides), [](const auto& one, const auto& other) {
            return glm::length(Vec2(one.second - one.first)) < glm::length(Vec2(other.second - other.first));
        });
        const double length_m = glm::length(Vec2(longest.second - longest.first));
        const auto steps = static_cast<std::size_t>(2.0 * length_m / square_m_) + 1;
        for (std::size_t i = 0; i <= steps; ++i) {
            const double share = static_cast<double>(i) / static_cast<double>(steps);
            const Vec2 p = (Vec2(longest.first) * (1.0 - share) + Vec2(longest.second) * share - low_) / square_m_;
            const auto x = std::min(static_cast<std::size_t>(std::max(p.x, 0.0)), across_ - 1);
            const auto y = std::min(static_cast<std::size_t>(std::max(p.y, 0.0)), up_ - 1);
            walls_[y * across_ + x].emplace_back(std::min({a.z, b.z, c.z}), std::max({a.z, b.z, c.z}));
        }
    }

    static bool inside(const Vec2& p, const Vec2& a, const Vec2& b, const Vec2& c)
    {
        const auto side = [&p](const Vec2& from, const Vec2& to) {
            return (to.x - from.x) * (p.y - from.y) - (to.y - from.y) * (p.x - from.x);
        };
        const double ab = side(a, b);
        const double bc = side(b, c);
        const double ca = side(c, a);
        return (ab >= 0.0 && bc >= 0.0 && ca >= 0.0) || (ab <= 0.0 && bc <= 0.0 && ca <= 0.0);
    }

    Vec2 low_{0.0};
    double square_m_ = leastSquare_m;
    std::size_t across_ = 1;
    std::size_t up_ = 1;
    std::vector<std::vector<std::pair<double, bool>>> surfaces_; ///< height, and whether it carries
    std::vector<std::vector<std::pair<double, double>>> walls_;  ///< from and to which height
};

/// Square metres that count as floor, by slice of height.
std::map<long, double> areasByHeight(const Mesh& mesh, double metresPerUnit)
{
    const Columns columns(mesh, metresPerUnit);
    std::vector<Columns::Floor> floors;
    std::vector<std::size_t> firstOf;
    for (std::size_t square = 0; square < columns.size(); ++square) {
        firstOf.push_back(floors.size());
        const auto here = columns.floorsOf(square);
        floors.insert(floors.end(), here.begin(), here.end());
    }
    firstOf.push_back(floors.size());
    Sets islands(floors.size()); // squares of floor between which one can walk
    const double climb_m = columns.square_m() + stepUp_m;
    const auto joinWith = [&](std::size_t square, std::size_t other) {
        for (std::size_t i = firstOf[square]; i < firstOf[square + 1]; ++i) {
            for (std::size_t j = firstOf[other]; j < firstOf[other + 1]; ++j) {
                if (std::abs(floors[i].height_m - floors[j].height_m) <= climb_m) {
                    islands.join(static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(j));
                }
            }
        }
    };
    for (std::size_t square = 0; square < columns.size(); ++square) {
        if ((square + 1) % columns.across() != 0) {
            joinWith(square, square + 1);
        }
        if (square + columns.across() < columns.size()) {
            joinWith(square, square + columns.across());
        }
    }
    std::map<std::size_t, std::size_t> sizes;
    for (std::size_t i = 0; i < floors.size(); ++i) {
        ++sizes[islands.of(static_cast<std::uint32_t>(i))];
    }
    const auto main =
        std::max_element(sizes.begin(), sizes.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
    std::map<long, double> areas;
    for (std::size_t i = 0; i < floors.size(); ++i) {
        const std::size_t island = islands.of(static_cast<std::uint32_t>(i));
        const bool large = static_cast<double>(sizes[island]) >= aloneShare * static_cast<double>(main->second);
        if (island == main->first || (large && floors[i].covered)) {
            areas[std::lround(floors[i].height_m / slice_m)] += columns.square_m() * columns.square_m();
        }
    }
    return areas;
}

} // namespace

std::vector<Storey> findStoreys(const Mesh& mesh, double metresPerUnit)
{
    const std::map<long, double> areas = areasByHeight(mesh, metresPerUnit);
    // What can be stood on round each height.
    const auto around = static_cast<long>(step_m / slice_m);
    std::vector<std::pair<double, long>> floors;
    for (const auto& at : areas) {
        const double area = std::accumulate(areas.lower_bound(at.first - around), areas.upper_bound(at.first + around), 0.0,
                                            [](double sum, const auto& near) { return sum + near.second; });
        floors.emplace_back(area, at.first);
    }
    std::sort(floors.rbegin(), floors.rend());
    std::vector<double> heights;
    for (const auto& [area, slice] : floors) {
        // Steps that lead there count with it; its height is that of most of it.
        const auto most = std::max_element(areas.lower_bound(slice - around), areas.upper_bound(slice + around),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        const double height = static_cast<double>(most->first) * slice_m;
        const bool free =
            std::none_of(heights.begin(), heights.end(), [&](double other) { return std::abs(other - height) < apart_m; });
        if (free && area >= leastArea_m2) {
            heights.push_back(height);
        }
    }
    std::sort(heights.rbegin(), heights.rend());
    const auto ground =
        std::min_element(heights.begin(), heights.end(), [](double a, double b) { return std::abs(a) < std::abs(b); });
    std::vector<Storey> storeys;
    for (auto height = heights.begin(); height != heights.end(); ++height) {
        const auto number = ground - height;
        Storey storey;
        storey.name = number == 0  ? "Ground"
                      : number > 0 ? "Storey " + std::to_string(number)
                                   : "Below " + std::to_string(-number);
        storey.floor_m = *height;
        storey.cut_m = *height + cut_m;
        storeys.push_back(std::move(storey));
    }
    return storeys;
}

std::optional<Vec3> standingPlace(const Mesh& mesh, double metresPerUnit)
{
    const std::vector<Storey> storeys = findStoreys(mesh, metresPerUnit);
    if (storeys.empty()) {
        return {};
    }
    const auto ground = std::min_element(storeys.begin(), storeys.end(), [](const Storey& a, const Storey& b) {
        return std::abs(a.floor_m) < std::abs(b.floor_m);
    });
    const Columns columns(mesh, metresPerUnit);
    const auto free = [&](std::size_t square) {
        const auto floors = columns.floorsOf(square);
        return !columns.walled(square, ground->floor_m) &&
               std::any_of(floors.begin(), floors.end(),
                           [&](const Columns::Floor& floor) { return std::abs(floor.height_m - ground->floor_m) <= slice_m; });
    };
    const auto [low, high] = mesh.bounds();
    const Vec2 middle = Vec2(low + high) / 2.0 * metresPerUnit;
    std::optional<Vec3> best;
    for (std::size_t square = columns.across() + 1; square + columns.across() + 1 < columns.size(); ++square) {
        const Vec2 at = columns.middleOf(square);
        if (best && glm::length(at - middle) >= glm::length(Vec2(*best) - middle)) {
            continue;
        }
        // With room on all sides.
        bool room = true;
        for (const std::size_t row : {square - columns.across(), square, square + columns.across()}) {
            room = room && free(row - 1) && free(row) && free(row + 1);
        }
        if (room) {
            best = Vec3{at, ground->floor_m};
        }
    }
    return best;
}

} // namespace stone
