// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/lane.h"
#include "geometry/solid.h"
#include "project/document.h"
#include "world/carriage.h"

#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// A zone and how deep a place lies in it.
struct Presence {
    std::uint32_t zone = 0;
    double depth_m = 0.0; ///< > 0
    /// The same along the way from where one comes in from the zone above, as far as there is one; see NestingDepths. Equal to
    /// depth_m else.
    double way_m = 0.0;
};

/// The zones that a place lies in, by number.
struct ZonesAt {
    std::vector<Presence> in; ///< by shape
    /// With what a place inside a child counts for its parents: at least as deep as in the child.
    std::vector<Presence> counted;

    double depth(std::uint32_t zone) const;
    void clear();
};

/// A level's zones. Immutable; any number of threads may ask. Asking for a place costs as much as there are zones near it.
class ZoneMap
{
public:
    /// Where a carrier is now.
    using Carriers = std::function<Carriage(const Riding&)>;
    /// The number that a game value has now.
    using Values = std::function<double(const GameValueId&)>;

    ZoneMap() = default;
    /// `solids`: the zones' shapes, in the frame of what carries them.
    ZoneMap(const Level& level, std::vector<Solid> solids);

    std::size_t size() const { return solids_.size(); }
    const Zone& zone(std::uint32_t index) const { return *zones_[index]; }
    const Solid& solid(std::uint32_t index) const { return solids_[index]; }
    std::optional<std::uint32_t> indexOf(const ZoneId& id) const;
    /// Nothing for those at the top, and for those that would be their own ancestors.
    std::optional<std::uint32_t> parentOf(std::uint32_t zone) const { return parents_[zone]; }
    bool isWithin(std::uint32_t zone, std::uint32_t ancestor) const;

    /// How deep a place in a zone lies along the way from where one comes in; nothing: as deep as in its shape.
    using WayIn = std::function<std::optional<double>(std::uint32_t zone)>;

    /// Fills in where a place lies. `zones` keeps its memory from call to call.
    void at(const Vec3& place, const Carriers& carriers, ZonesAt& zones, const WayIn& wayIn = {}) const;

    /// What is done to the things of a zone by the zones in which the place lies: the fades of its children over the depth in
    /// them, and the share that other zones leave it where they overlap without an order.
    LaneValues fadesOf(std::uint32_t zone, const ZonesAt& zones, const Values& values) const;

    /// The share of the power that a zone keeps where it overlaps with others without being above or below them: all of it at
    /// the border, so that nothing jumps, and beyond the margins as its depth is to theirs.
    double shareOf(std::uint32_t zone, const ZonesAt& zones) const;

    /// Whether the zone's sprinkles may start: one is in it, and not in a child that holds them.
    bool sprinklesIn(std::uint32_t zone, const ZonesAt& zones) const;

    /// How far the bed of a zone has opened up for a place outside, 1: not at all, 0: all round. By the margins of the sides
    /// that are near.
    double closedness(std::uint32_t zone, const Vec3& own) const;

private:
    std::vector<const Zone*> zones_;
    std::vector<Solid> solids_;
    std::vector<std::optional<std::uint32_t>> parents_;
    std::map<std::string, std::uint32_t> byId_;
    SphereIndex index_;
    std::vector<std::uint32_t> riding_;
};

} // namespace stone
