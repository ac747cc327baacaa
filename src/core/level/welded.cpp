// SPDX-License-Identifier: MPL-2.0
#include "level/welded.h"

#include <cmath>
#include <unordered_map>

namespace stone
{

namespace
{

constexpr double weldPoints_m = 1e-4;

struct WeldCell {
    std::int64_t x, y, z;
    bool operator==(const WeldCell&) const = default;
};
struct WeldCellHash {
    std::size_t operator()(const WeldCell& c) const
    {
        std::uint64_t hash = 1469598103934665603ULL;
        for (const std::int64_t part : {c.x, c.y, c.z}) {
            hash = (hash ^ static_cast<std::uint64_t>(part)) * 1099511628211ULL;
        }
        return hash;
    }
};

} // namespace

std::vector<std::uint32_t> weldedPoints(const std::vector<Vec3>& points)
{
    std::unordered_map<WeldCell, std::uint32_t, WeldCellHash> places;
    std::vector<std::uint32_t> welded;
    welded.reserve(points.size());
    for (const Vec3& p : points) {
        const WeldCell cell{std::llround(p.x / weldPoints_m), std::llround(p.y / weldPoints_m),
                            std::llround(p.z / weldPoints_m)};
        welded.push_back(places.emplace(cell, static_cast<std::uint32_t>(places.size())).first->second);
    }
    return welded;
}

} // namespace stone
