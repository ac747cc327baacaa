// SPDX-License-Identifier: MPL-2.0
#include "world/nesting.h"

#include <algorithm>
#include <functional>

namespace stone
{

namespace
{

} // namespace

NestingDepths::Nest NestingDepths::nestOf(const RoomMap& rooms, const ZoneMap& zones, std::uint32_t zone)
{
    Nest nest;
    if (!zones.parentOf(zone) || zones.zone(zone).riding.on != Riding::On::nothing) {
        return nest;
    }
    const Solid& solid = zones.solid(zone);
    std::vector<bool> within(rooms.size());
    for (std::uint32_t room = 0; room < rooms.size(); ++room) {
        const auto [low, high] = rooms.solid(room).box();
        within[room] = solid.contains(rooms.solid(room).nearest((low + high) / 2.0));
    }
    const auto isWithin = [&](std::uint32_t room) { return room != RoomMap::outside && within[room]; };
    const auto& holes = rooms.holes();
    nest.way_m.assign(holes.size(), boundless);
    nest.via.resize(holes.size());
    std::vector<std::pair<double, std::uint32_t>> open;
    for (std::uint32_t i = 0; i < holes.size(); ++i) {
        if (holes[i].joins() && isWithin(holes[i].behind) != isWithin(holes[i].ahead)) {
            nest.via[i] = i;
            nest.way_m[i] = solid.depth(holes[i].centre);
            open.emplace_back(nest.way_m[i], i);
        }
    }
    if (open.empty()) {
        return nest;
    }
    nest.within = std::move(within);
    const auto later = std::greater<>();
    std::make_heap(open.begin(), open.end(), later);
    while (!open.empty()) {
        const auto [way_m, at] = open.front();
        std::pop_heap(open.begin(), open.end(), later);
        open.pop_back();
        for (const std::uint32_t room : {holes[at].behind, holes[at].ahead}) {
            if (way_m > nest.way_m[at] || room == RoomMap::outside || !nest.within[room]) {
                continue;
            }
            for (const std::uint32_t next : rooms.holesOf(room)) {
                const double further_m = way_m + glm::length(holes[next].centre - holes[at].centre);
                const bool mouth = nest.via[next] == next && nest.way_m[next] < boundless;
                if (!mouth && further_m < nest.way_m[next]) {
                    nest.way_m[next] = further_m;
                    nest.via[next] = at;
                    open.emplace_back(further_m, next);
                    std::push_heap(open.begin(), open.end(), later);
                }
            }
        }
    }
    return nest;
}

/// The way from a place out through an opening and those before it, each passed where it is nearest.
double NestingDepths::through(const RoomMap& rooms, const Solid& zone, const Nest& nest, std::uint32_t hole, Vec3 place)
{
    double way_m = 0.0;
    while (true) {
        const Vec3 by = rooms.holes()[hole].nearest(place);
        way_m += glm::length(place - by);
        if (nest.via[hole] == hole) {
            // Counted from the border, which may lie before or behind it.
            return way_m + zone.depth(by);
        }
        place = by;
        hole = nest.via[hole];
    }
}

NestingDepths::NestingDepths(const RoomMap& rooms, const ZoneMap& zones)
{
    if (rooms.empty()) {
        return;
    }
    for (std::uint32_t zone = 0; zone < zones.size(); ++zone) {
        nests_.push_back(nestOf(rooms, zones, zone));
    }
}

std::optional<double> NestingDepths::depth_m(const RoomMap& rooms, const ZoneMap& zones, std::uint32_t zone,
                                             const Vec3& place) const
{
    if (zone >= nests_.size() || nests_[zone].within.empty()) {
        return {};
    }
    const Nest& nest = nests_[zone];
    const std::uint32_t room = rooms.roomAt(place);
    if (room == RoomMap::outside || !nest.within[room]) {
        return {};
    }
    double least_m = boundless;
    for (const std::uint32_t i : rooms.holesOf(room)) {
        if (nest.way_m[i] < boundless) {
            least_m = std::min(least_m, through(rooms, zones.solid(zone), nest, i, place));
        }
    }
    return least_m < boundless ? std::optional(std::max(least_m, 0.0)) : std::nullopt;
}

} // namespace stone
