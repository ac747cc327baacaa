// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/solid.h"
#include "geometry/sphere_index.h"
#include "project/document.h"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace stone
{

/// A level's rooms and openings as places ask for them. Immutable; any number of threads may ask.
class RoomMap
{
public:
    /// What lies in no room is outside: a space of its own.
    static constexpr std::uint32_t outside = UINT32_MAX;
    /// Openings further away than this are not looked at.
    static constexpr double reach_m = 60.0;

    RoomMap() = default;
    explicit RoomMap(const Level& level);

    bool empty() const { return rooms_.empty(); }
    std::size_t size() const { return rooms_.size(); }

    /// The smallest room in which a place lies. In an opening, whichever side it is nearer to counts.
    std::uint32_t roomAt(const Vec3& place) const;

    const Solid& solid(std::uint32_t room) const { return rooms_[room].solid; }
    double volume_m3(std::uint32_t room) const { return rooms_[room].volume_m3; }

    /// An opening as sound meets it: an upright rectangle.
    struct Hole {
        Vec3 centre{0.0};
        Vec3 along{1.0, 0.0, 0.0};  ///< unit vector of its line
        Vec3 normal{0.0, 1.0, 0.0}; ///< horizontal unit vector through it
        double halfWidth_m = 0.5;
        double halfHeight_m = 1.0;
        std::uint32_t behind = outside; ///< the room against the normal
        std::uint32_t ahead = outside;

        double area_m2() const { return 4.0 * halfWidth_m * halfHeight_m; }
        std::uint32_t beyond(std::uint32_t room) const { return room == behind ? ahead : behind; }
        /// Whether it joins two different spaces.
        bool joins() const { return behind != ahead; }
        /// The place of it that is nearest.
        Vec3 nearest(const Vec3& place) const;
        /// Where a stretch goes through its plane, if that is within it.
        std::optional<Vec3> passedBy(const Vec3& from, const Vec3& to) const;
        /// How far a place in its plane is from its edge, positive within.
        double toEdge_m(const Vec3& place) const;
        /// The place on its edge that is nearest to one in its plane.
        Vec3 nearestOnEdge(const Vec3& place) const;
        /// The share of all directions that it fills as seen from a place, 0 to 0.5 (A. Van Oosterom and J. Strackee, IEEE
        /// Trans. Biomed. Eng. 30, 1983, for its two triangles).
        double share(const Vec3& place) const;
    };
    /// By opening of the level.
    const std::vector<Hole>& holes() const { return holes_; }
    /// The openings within reach of a place that belong to a room.
    void holesNear(const Vec3& place, std::uint32_t room, std::vector<std::uint32_t>& found) const;
    /// All openings of a room.
    std::span<const std::uint32_t> holesOf(std::uint32_t room) const
    {
        return room == outside ? std::span(outer_) : std::span(rooms_[room].holes);
    }

private:
    struct Space {
        Solid solid;
        double volume_m3;
        std::vector<std::uint32_t> holes;
    };

    std::uint32_t inRoom(const Vec3& place) const;
    static Hole holeOf(const Opening& opening);

    std::vector<Space> rooms_;
    std::vector<std::uint32_t> bySize_; ///< the smallest first
    std::vector<std::uint32_t> outer_;  ///< openings to the outside
    std::vector<Hole> holes_;
    SphereIndex roomIndex_;
    SphereIndex inHoles_;    ///< of what is about in an opening
    SphereIndex outerIndex_; ///< of spheres of the reach round the openings to the outside
};

/// How far openings stand open, by opening of the level, 0 to 1.
using OpenShares = std::vector<double>;

/// A way from one place to another through openings, pulled tight.
struct RoomWay {
    std::vector<std::uint32_t> holes; ///< from the beginning on
    std::vector<Vec3> points;         ///< where it goes through each
    double length_m = 0.0;
    double share = 1.0; ///< of its energy that counts: ways that are long or many fade out before they are left out
};

/// The ways through openings from one place to all others: found once for a place, asked for many. Not thread-safe.
class RoomWays
{
public:
    /// More than this nobody would hear apart: openings of the ears' room, and ways in all.
    static constexpr std::size_t mostFirst = 5;
    static constexpr std::size_t mostWays = 8;
    static constexpr double furthest_m = 80.0;

    /// Costs what lies within reach.
    void spreadFrom(const RoomMap& map, const Vec3& from, std::uint32_t room);
    const Vec3& from() const { return from_; }
    std::uint32_t room() const { return room_; }

    /// The shortest way for each pair of a first and a last opening, the shortest of these first; appended to `ways`. None for
    /// a place in the same room.
    void waysTo(const RoomMap& map, const Vec3& to, std::uint32_t room, std::vector<RoomWay>& ways) const;

private:
    /// An opening and the side to which it is left: twice its number, and one more for the side ahead.
    using Passage = std::uint32_t;
    static Passage passage(const RoomMap& map, std::uint32_t hole, std::uint32_t into)
    {
        return 2 * hole + (map.holes()[hole].ahead == into ? 1 : 0);
    }

    struct Through {
        std::uint32_t first;
        std::vector<double> way_m; ///< by passage
        std::vector<Passage> before;
    };
    void spreadThrough(const RoomMap& map, Through& through) const;
    void trace(const RoomMap& map, const Through& through, Passage last, const Vec3& to, RoomWay& way) const;

    Vec3 from_{0.0};
    std::uint32_t room_ = RoomMap::outside;
    std::vector<Through> through_;
    std::vector<std::uint32_t> near_;
};

/// Pulls a way tight: it goes through each opening where that makes it shortest.
void pullTight(const RoomMap& map, const Vec3& from, const Vec3& to, RoomWay& way);

} // namespace stone
