// SPDX-License-Identifier: MPL-2.0
#include "world/zone_map.h"

#include "dsp/decibel.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Where two zones overlap, sharing begins over at least so much of depth.
constexpr double leastOverlap_m = 1.0;

double smoothed(double x)
{
    const double t = std::clamp(x, 0.0, 1.0);
    return t * t * (3.0 - 2.0 * t);
}

double depthIn(const std::vector<Presence>& zones, std::uint32_t zone)
{
    const auto found = std::find_if(zones.begin(), zones.end(), [zone](const Presence& p) { return p.zone == zone; });
    return found != zones.end() ? found->depth_m : 0.0;
}

} // namespace

double ZonesAt::depth(std::uint32_t zone) const
{
    return depthIn(in, zone);
}

void ZonesAt::clear()
{
    in.clear();
    counted.clear();
}

ZoneMap::ZoneMap(const Level& level, std::vector<Solid> solids) : solids_(std::move(solids))
{
    for (const auto& zone : level.zones) {
        byId_.emplace(zone->id.text, static_cast<std::uint32_t>(zones_.size()));
        zones_.push_back(zone.get());
    }
    parents_.resize(zones_.size());
    std::vector<Sphere> spheres;
    for (std::uint32_t i = 0; i < zones_.size(); ++i) {
        // An ancestor that is already below this zone would close a ring: it is left out.
        const auto parent = indexOf(zones_[i]->parent);
        bool ring = false;
        for (auto above = parent; above && !ring; above = parents_[*above]) {
            ring = *above == i;
        }
        parents_[i] = ring ? std::nullopt : parent;
        const bool rides = zones_[i]->riding.on != Riding::On::nothing;
        spheres.push_back(rides ? Sphere{Vec3{1e12}, 0.0} : solids_[i].bounds());
        if (rides) {
            riding_.push_back(i);
        }
    }
    index_ = SphereIndex(spheres);
}

std::optional<std::uint32_t> ZoneMap::indexOf(const ZoneId& id) const
{
    const auto found = byId_.find(id.text);
    return found != byId_.end() ? std::optional(found->second) : std::nullopt;
}

bool ZoneMap::isWithin(std::uint32_t zone, std::uint32_t ancestor) const
{
    for (auto above = parents_[zone]; above; above = parents_[*above]) {
        if (*above == ancestor) {
            return true;
        }
    }
    return false;
}

void ZoneMap::at(const Vec3& place, const Carriers& carriers, ZonesAt& zones, const WayIn& wayIn) const
{
    zones.clear();
    std::vector<std::uint32_t> near;
    index_.containing(place, near);
    const auto meet = [&](std::uint32_t zone, const Vec3& own) {
        if (const double depth = solids_[zone].depth(own); depth > 0.0) {
            zones.in.push_back({zone, depth, (wayIn ? wayIn(zone) : std::nullopt).value_or(depth)});
        }
    };
    for (const std::uint32_t zone : near) {
        meet(zone, place);
    }
    for (const std::uint32_t zone : riding_) {
        meet(zone, carriers(zones_[zone]->riding).own(place));
    }
    std::sort(zones.in.begin(), zones.in.end(), [](const Presence& a, const Presence& b) { return a.zone < b.zone; });
    zones.counted = zones.in;
    for (const Presence& presence : zones.in) {
        for (auto above = parents_[presence.zone]; above; above = parents_[*above]) {
            const auto known =
                std::find_if(zones.counted.begin(), zones.counted.end(), [&](const Presence& p) { return p.zone == *above; });
            if (known == zones.counted.end()) {
                zones.counted.push_back({*above, presence.depth_m, presence.way_m});
            } else {
                known->depth_m = std::max(known->depth_m, presence.depth_m);
                known->way_m = std::max(known->way_m, presence.way_m);
            }
        }
    }
}

LaneValues ZoneMap::fadesOf(std::uint32_t zone, const ZonesAt& zones, const Values& values) const
{
    LaneValues sum;
    for (const Presence& child : zones.counted) {
        if (parents_[child.zone] != zone) {
            continue;
        }
        for (const Lane& lane : zones_[child.zone]->fades) {
            if (lane.on) {
                sum.add(lane.property, laneAt(lane, lane.over == LaneInput::depth ? child.way_m : values(lane.value)));
            }
        }
    }
    const double share = shareOf(zone, zones);
    if (share < 1.0) {
        sum.add(LaneProperty::level, 0.5 * levelOf(share));
    }
    return sum;
}

double ZoneMap::shareOf(std::uint32_t zone, const ZonesAt& zones) const
{
    const double own_m = depthIn(zones.counted, zone);
    if (own_m <= 0.0) {
        return 1.0;
    }
    const auto stranger = [&](std::uint32_t other) {
        return other != zone && !isWithin(other, zone) && !isWithin(zone, other);
    };
    double share = 1.0;
    for (const Presence& other : zones.counted) {
        // Of a family of zones the topmost stands for all.
        const auto above = parents_[other.zone];
        if (!stranger(other.zone) || (above && stranger(*above) && depthIn(zones.counted, *above) > 0.0)) {
            continue;
        }
        const double margin = std::max(leastOverlap_m, std::min(zones_[zone]->margin_m, zones_[other.zone]->margin_m));
        const double begun = smoothed(std::min(own_m, other.depth_m) / margin);
        share *= 1.0 + begun * (own_m / (own_m + other.depth_m) - 1.0);
    }
    return share;
}

bool ZoneMap::sprinklesIn(std::uint32_t zone, const ZonesAt& zones) const
{
    if (depthIn(zones.counted, zone) <= 0.0) {
        return false;
    }
    return std::none_of(zones.counted.begin(), zones.counted.end(), [&](const Presence& child) {
        return parents_[child.zone] == zone && zones_[child.zone]->holdsSprinkles;
    });
}

double ZoneMap::closedness(std::uint32_t zone, const Vec3& own) const
{
    const Zone& what = *zones_[zone];
    const Solid& solid = solids_[zone];
    double closed = 1.0;
    const auto side = [&](double distance_m, double margin_m) {
        closed = std::min(closed, margin_m > 0.0 ? distance_m / margin_m : distance_m > 0.0 ? 1.0 : 0.0);
    };
    if (what.margins.empty()) {
        side(solid.signedDistance(own), what.margin_m);
    } else {
        for (std::size_t i = 0; i < solid.sideCount(); ++i) {
            side(solid.distanceToSide(own, i), i < what.margins.size() ? what.margins[i] : what.margin_m);
        }
    }
    return std::clamp(closed, 0.0, 1.0);
}

} // namespace stone
