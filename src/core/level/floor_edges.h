// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/vec.h"
#include "project/edge_rules.h"

#include <array>
#include <bitset>
#include <cstdint>
#include <optional>
#include <unordered_map>
#include <vector>

namespace stone
{

/// A line along which a floor ends, or changes.
struct FloorEdge {
    EdgeKind kind = EdgeKind::drop;
    /// On the floor that one stands on, which lies to the left of the way along it. Metres; at least two, of a closed one the
    /// last joins the first.
    std::vector<Vec3> points;
    bool closed = false;
    double by_m = 0.0;          ///< how much lower or higher it is beyond, at the most; infinite where nothing was found
    std::uint32_t material = 0; ///< of the floor, into the mesh's materials

    double length_m() const;
    bool operator==(const FloorEdge&) const = default;
};

using EdgeKindSet = std::bitset<edgeKindCount>; ///< by EdgeKind

/// The edges of a level's floor, and what of them is near a place. Immutable: any number of threads may ask.
class FloorEdges
{
public:
    FloorEdges() = default;
    explicit FloorEdges(std::vector<FloorEdge> edges);

    const std::vector<FloorEdge>& all() const { return edges_; }

    /// A place on an edge as it lies ahead of somebody.
    struct Ahead {
        EdgeKind kind = EdgeKind::drop;
        Vec3 at{0.0};
        double distance_m = 0.0; ///< in the plan
        double by_m = 0.0;       ///< see FloorEdge
        std::size_t edge = 0;    ///< into all()
    };
    /// The nearest place of an edge of those kinds for somebody who stands there, no further than so far in the plan and no
    /// more than `aside_deg` (below 90) to either side of a heading (as a Pose has it). Only edges of the floor that one stands
    /// on, and of what can be come to from it by slopes and steps, seen from their floor's side: what lies behind a wall, or
    /// beyond a drop or water, does not count. Takes time with the edges within that distance, not with those of the level.
    std::optional<Ahead> ahead(const Vec3& feet, double heading_deg, double aside_deg, EdgeKindSet kinds,
                               double within_m) const;
    /// The same of each kind by itself, by EdgeKind, at hardly more cost.
    std::array<std::optional<Ahead>, edgeKindCount> aheadOfEach(const Vec3& feet, double heading_deg, double aside_deg,
                                                                EdgeKindSet kinds, double within_m) const;

private:
    struct Piece {
        Vec3 from;
        Vec3 to;
        std::uint32_t edge;
    };
    /// Calls found(piece) for each that may lie within so far; some more than once.
    template <class Found> void eachNear(const Vec2& at, double within_m, const Found& found) const;
    bool hidden(const Vec3& feet, const Vec3& at, double within_m) const;

    std::vector<FloorEdge> edges_;
    std::vector<Piece> pieces_;
    std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> cells_; ///< pieces by square of the plan
};

} // namespace stone
