// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/sphere_index.h"
#include "geometry/vec.h"

#include <array>
#include <cstdint>
#include <limits>
#include <memory>
#include <mutex>
#include <optional>
#include <utility>
#include <vector>

namespace stone
{

class Obstacles;

/// The convex corners of the walls in a horizontal cut, and which of them see each other along a taut string: with it the
/// shortest ways round corners are found. Any number of threads may ask; what each corner reaches is kept when it was found.
class CornerGraph
{
public:
    /// Corners further apart than this are not joined, and no way is longer.
    static constexpr double reach_m = 40.0;

    CornerGraph(const Obstacles& obstacles, double height_m);

    double height_m() const { return height_m_; }
    std::size_t size() const { return corners_.size(); }

    /// The shortest ways from one place to all corners.
    struct Spread {
        Vec2 from{0.0};
        std::vector<float> way_m;         ///< by corner; infinite where there is none
        std::vector<std::uint32_t> first; ///< the first corner on the way: one that the place itself sees
    };
    static constexpr std::uint32_t none = UINT32_MAX;
    /// Costs a look at each corner within reach. Reuses what `spread` has. Nearer than `clear_m` nothing stops a look.
    void spreadFrom(const Vec2& place, double clear_m, const Obstacles& obstacles, Spread& spread) const;

    /// A way round corners.
    struct Way {
        double length_m;    ///< seen from above
        std::uint32_t last; ///< the corner that the place at its end sees
    };
    /// The shortest ways from where `spread` begins to a place: to the left of the straight line and to its right, as seen
    /// from the beginning. Ways that are longer than the straight line by more than `detour_m` are not looked for.
    struct Ways {
        std::optional<Way> left;
        std::optional<Way> right;
    };
    /// Nearer to the place than `clear_m` nothing stops a look, nor does the node `without`.
    struct End {
        Vec2 place;
        double clear_m = 0.0;
        std::optional<std::uint32_t> without{};

        bool operator==(const End&) const = default;
    };
    Ways waysTo(const End& end, const Spread& spread, const Obstacles& obstacles, double detour_m) const;

    /// The corners that a place sees and round which a way to it may bend: found once for a place to which ways from very many
    /// others are asked. Costs a look for each corner within reach.
    struct Seen {
        End end;
        std::vector<std::pair<double, std::uint32_t>> corners; ///< how far each is, and which
    };
    void look(const End& end, const Obstacles& obstacles, Seen& seen) const;
    /// The same ways as to its place.
    Ways waysTo(const Seen& seen, const Spread& spread, double detour_m) const;

    /// Where a way bends, from the beginning of `spread` on.
    std::vector<Vec2> bendsOf(const Way& way, const Spread& spread) const;

private:
    struct Corner {
        Vec2 at;     ///< a little off the wall
        Vec2 before; ///< along the wall to both sides; unit vectors
        Vec2 after;
    };
    struct Edge {
        std::uint32_t to;
        float length_m;
    };

    /// What is done for eight corners at once.
    static constexpr std::size_t wide = 8;
    /// The shortest ways from one corner to all that it reaches.
    struct Row {
        struct Eight {
            std::uint32_t begin;           ///< the first of eight corners one after the other
            std::array<float, wide> way_m; ///< infinite where there is none
        };
        std::vector<Eight> ways;
        std::vector<std::array<std::uint32_t, wide>> before; ///< beside them: the corner before each on its way
    };
    struct KeptRow {
        std::once_flag found;
        Row row;
    };

    void gather(const Obstacles& obstacles);
    void sortByPlace();
    void join(const Obstacles& obstacles);
    bool tangent(const Corner& corner, const Vec2& direction) const;
    bool sees(const Vec2& corner, const End& end, const Obstacles& obstacles) const;
    template <class Take> void withinReach(const Vec2& place, const Take& take) const;
    template <class Take> void eachSeen(const End& end, const Obstacles& obstacles, const Take& take) const;
    std::size_t padded() const; ///< how many corners there are, up to the next whole eight
    void spreadOn(std::uint32_t corner, float away_m, Spread& spread) const;
    Row waysFrom(std::uint32_t corner) const;
    const Row& rowOf(std::uint32_t corner) const;
    std::optional<Way>& sideOf(std::uint32_t corner, const Vec2& line, const Spread& spread, Ways& ways) const;

    double height_m_;
    std::vector<Corner> corners_;          ///< those near each other mostly next to each other
    std::vector<std::vector<Edge>> edges_; ///< by corner
    SphereIndex index_;                    ///< of spheres of the reach round each eight corners in a row
    std::unique_ptr<KeptRow[]> rows_;      ///< by corner; each is found when a place that sees it is asked for first
};

} // namespace stone
