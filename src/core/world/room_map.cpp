// SPDX-License-Identifier: MPL-2.0
#include "world/room_map.h"

#include "world/carriage.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

/// From the middle of an opening so far to both sides the rooms that it joins are looked for: past the thickness of a wall.
constexpr std::array<double, 3> probes_m{0.15, 0.4, 0.8};
/// Whoever is within so much of an opening's plane is in the opening.
constexpr double inOpening_m = 0.8;
constexpr std::uint32_t none = UINT32_MAX;
constexpr int pulls = 6;
/// Over the last so many metres before it is left out a way fades.
constexpr double fadingWay_m = 3.0;

/// Of a triangle as seen from the origin, steradians (Van Oosterom and Strackee).
double solidAngle(const Vec3& a, const Vec3& b, const Vec3& c)
{
    const double la = glm::length(a);
    const double lb = glm::length(b);
    const double lc = glm::length(c);
    const double volume = std::abs(glm::dot(a, glm::cross(b, c)));
    const double rest = la * lb * lc + glm::dot(a, b) * lc + glm::dot(a, c) * lb + glm::dot(b, c) * la;
    return 2.0 * std::atan2(volume, rest);
}

} // namespace

Vec3 RoomMap::Hole::nearest(const Vec3& place) const
{
    const Vec3 way = place - centre;
    return centre + along * std::clamp(glm::dot(way, along), -halfWidth_m, halfWidth_m) +
           Vec3{0.0, 0.0, std::clamp(way.z, -halfHeight_m, halfHeight_m)};
}

double RoomMap::Hole::toEdge_m(const Vec3& place) const
{
    const Vec3 way = place - centre;
    return std::min(halfWidth_m - std::abs(glm::dot(way, along)), halfHeight_m - std::abs(way.z));
}

Vec3 RoomMap::Hole::nearestOnEdge(const Vec3& place) const
{
    const Vec3 within = nearest(place) - centre;
    double x = glm::dot(within, along);
    double z = within.z;
    if (halfWidth_m - std::abs(x) < halfHeight_m - std::abs(z)) {
        x = std::copysign(halfWidth_m, x);
    } else {
        z = std::copysign(halfHeight_m, z);
    }
    return centre + along * x + Vec3{0.0, 0.0, z};
}

std::optional<Vec3> RoomMap::Hole::passedBy(const Vec3& from, const Vec3& to) const
{
    const double a = glm::dot(from - centre, normal);
    const double b = glm::dot(to - centre, normal);
    if ((a < 0.0) == (b < 0.0)) {
        return {};
    }
    const Vec3 at = from + (to - from) * (a / (a - b));
    return toEdge_m(at) >= 0.0 ? std::optional(at) : std::nullopt;
}

double RoomMap::Hole::share(const Vec3& place) const
{
    const Vec3 x = along * halfWidth_m;
    const Vec3 z{0.0, 0.0, halfHeight_m};
    const Vec3 to = centre - place;
    const Vec3 corners[] = {to - x - z, to + x - z, to + x + z, to - x + z};
    const double angle = solidAngle(corners[0], corners[1], corners[2]) + solidAngle(corners[0], corners[2], corners[3]);
    return std::min(angle / (4.0 * std::numbers::pi), 0.5);
}

RoomMap::Hole RoomMap::holeOf(const Opening& opening)
{
    Hole hole;
    const Vec2 line = opening.to - opening.from;
    const double length = glm::length(line);
    hole.along = {line / length, 0.0};
    hole.normal = {-hole.along.y, hole.along.x, 0.0};
    hole.centre = {(opening.from + opening.to) / 2.0, (opening.sill_m + opening.head_m) / 2.0};
    hole.halfWidth_m = length / 2.0;
    hole.halfHeight_m = (opening.head_m - opening.sill_m) / 2.0;
    return hole;
}

RoomMap::RoomMap(const Level& level)
{
    std::vector<Sphere> spheres;
    for (const auto& room : level.rooms) {
        Solid solid(room->shape, frameAt(room->at, room->heading_deg));
        spheres.push_back(solid.bounds());
        const double volume_m3 = solid.volume_m3();
        bySize_.push_back(static_cast<std::uint32_t>(rooms_.size()));
        rooms_.push_back({std::move(solid), volume_m3, {}});
    }
    roomIndex_ = SphereIndex(spheres);
    std::vector<std::uint32_t> order = bySize_;
    std::stable_sort(order.begin(), order.end(),
                     [this](std::uint32_t a, std::uint32_t b) { return rooms_[a].volume_m3 < rooms_[b].volume_m3; });
    // By room: its place among all, the smallest first.
    for (std::uint32_t place = 0; place < order.size(); ++place) {
        bySize_[order[place]] = place;
    }
    spheres.clear();
    for (const auto& opening : level.openings) {
        Hole hole = holeOf(*opening);
        const auto side = [&](double sign) {
            for (const double probe_m : probes_m) {
                if (const std::uint32_t room = inRoom(hole.centre + hole.normal * (sign * probe_m)); room != outside) {
                    return room;
                }
            }
            return outside;
        };
        hole.behind = side(-1.0);
        hole.ahead = side(1.0);
        const auto index = static_cast<std::uint32_t>(holes_.size());
        for (const std::uint32_t room : {hole.behind, hole.ahead}) {
            if (hole.joins()) {
                (room == outside ? outer_ : rooms_[room].holes).push_back(index);
            }
        }
        spheres.push_back({hole.centre, std::hypot(hole.halfWidth_m, hole.halfHeight_m, inOpening_m)});
        holes_.push_back(hole);
    }
    inHoles_ = SphereIndex(spheres);
    spheres.clear();
    for (const std::uint32_t i : outer_) {
        spheres.push_back({holes_[i].centre, reach_m});
    }
    outerIndex_ = SphereIndex(spheres);
}

std::uint32_t RoomMap::inRoom(const Vec3& place) const
{
    thread_local std::vector<std::uint32_t> near;
    near.clear();
    roomIndex_.containing(place, near);
    std::uint32_t smallest = outside;
    for (const std::uint32_t room : near) {
        if ((smallest == outside || bySize_[room] < bySize_[smallest]) && rooms_[room].solid.contains(place)) {
            smallest = room;
        }
    }
    return smallest;
}

std::uint32_t RoomMap::roomAt(const Vec3& place) const
{
    if (rooms_.empty()) {
        return outside;
    }
    thread_local std::vector<std::uint32_t> near;
    near.clear();
    inHoles_.containing(place, near);
    for (const std::uint32_t i : near) {
        const Hole& hole = holes_[i];
        const double off_m = glm::dot(place - hole.centre, hole.normal);
        if (hole.joins() && std::abs(off_m) < inOpening_m && hole.toEdge_m(place) >= 0.0) {
            return off_m < 0.0 ? hole.behind : hole.ahead;
        }
    }
    return inRoom(place);
}

void RoomMap::holesNear(const Vec3& place, std::uint32_t room, std::vector<std::uint32_t>& found) const
{
    found.clear();
    if (room != outside) {
        for (const std::uint32_t i : rooms_[room].holes) {
            if (glm::length(holes_[i].centre - place) < reach_m) {
                found.push_back(i);
            }
        }
        return;
    }
    outerIndex_.containing(place, found);
    for (std::uint32_t& i : found) {
        i = outer_[i];
    }
}

void RoomWays::spreadThrough(const RoomMap& map, Through& through) const
{
    const auto& holes = map.holes();
    through.way_m.assign(2 * holes.size(), boundless);
    through.before.assign(2 * holes.size(), none);
    std::vector<std::pair<double, Passage>> open;
    const auto later = std::greater<>();
    const auto reach = [&](Passage passage, double way_m, Passage before) {
        if (way_m < through.way_m[passage] && way_m <= furthest_m) {
            through.way_m[passage] = way_m;
            through.before[passage] = before;
            open.emplace_back(way_m, passage);
            std::push_heap(open.begin(), open.end(), later);
        }
    };
    reach(passage(map, through.first, holes[through.first].beyond(room_)),
          glm::length(holes[through.first].nearest(from_) - from_), none);
    while (!open.empty()) {
        const auto [way_m, at] = open.front();
        std::pop_heap(open.begin(), open.end(), later);
        open.pop_back();
        const std::uint32_t hole = at / 2;
        const std::uint32_t room = at % 2 == 1 ? holes[hole].ahead : holes[hole].behind;
        if (way_m > through.way_m[at]) {
            continue;
        }
        for (const std::uint32_t next : map.holesOf(room)) {
            // Nobody hears what leaves the room where one is and comes back into it.
            const std::uint32_t into = holes[next].beyond(room);
            if (next != hole && into != room_) {
                reach(passage(map, next, into), way_m + glm::length(holes[next].centre - holes[hole].centre), at);
            }
        }
    }
}

void RoomWays::spreadFrom(const RoomMap& map, const Vec3& from, std::uint32_t room)
{
    from_ = from;
    room_ = room;
    map.holesNear(from, room, near_);
    std::sort(near_.begin(), near_.end(), [&](std::uint32_t a, std::uint32_t b) {
        return glm::length(map.holes()[a].nearest(from) - from) < glm::length(map.holes()[b].nearest(from) - from);
    });
    near_.resize(std::min(near_.size(), mostFirst));
    through_.resize(near_.size());
    for (std::size_t i = 0; i < near_.size(); ++i) {
        through_[i].first = near_[i];
        spreadThrough(map, through_[i]);
    }
}

void pullTight(const RoomMap& map, const Vec3& from, const Vec3& to, RoomWay& way)
{
    way.points.resize(way.holes.size());
    for (std::size_t i = 0; i < way.holes.size(); ++i) {
        way.points[i] = map.holes()[way.holes[i]].centre;
    }
    for (int round = 0; round < pulls; ++round) {
        for (std::size_t i = 0; i < way.points.size(); ++i) {
            const Vec3& before = i > 0 ? way.points[i - 1] : from;
            const Vec3& after = i + 1 < way.points.size() ? way.points[i + 1] : to;
            const RoomMap::Hole& hole = map.holes()[way.holes[i]];
            const double a = std::abs(glm::dot(before - hole.centre, hole.normal));
            const double b = std::abs(glm::dot(after - hole.centre, hole.normal));
            // Mirrored onto one another's side, the shortest way through the plane is straight.
            const double t = a + b > 0.0 ? a / (a + b) : 0.5;
            way.points[i] = hole.nearest(before + (after - before) * t);
        }
    }
    way.length_m = 0.0;
    Vec3 at = from;
    for (const Vec3& point : way.points) {
        way.length_m += glm::length(point - at);
        at = point;
    }
    way.length_m += glm::length(to - at);
}

void RoomWays::trace(const RoomMap& map, const Through& through, Passage last, const Vec3& to, RoomWay& way) const
{
    for (Passage at = last; at != none; at = through.before[at]) {
        way.holes.push_back(at / 2);
    }
    std::reverse(way.holes.begin(), way.holes.end());
    pullTight(map, from_, to, way);
}

void RoomWays::waysTo(const RoomMap& map, const Vec3& to, std::uint32_t room, std::vector<RoomWay>& ways) const
{
    if (room == room_) {
        return;
    }
    struct Candidate {
        double way_m;
        const Through* through;
        Passage last;
    };
    thread_local std::vector<Candidate> candidates;
    candidates.clear();
    const auto& holes = map.holes();
    for (const Through& through : through_) {
        for (const std::uint32_t hole : map.holesOf(room)) {
            const Passage last = passage(map, hole, room);
            if (through.way_m[last] >= furthest_m) {
                continue;
            }
            const double way_m = through.way_m[last] + glm::length(holes[hole].nearest(to) - to);
            // Through the room itself, out of it and in again: what is there has been heard on its way out.
            const auto returns = [&] {
                for (Passage at = through.before[last]; at != none; at = through.before[at]) {
                    if ((at % 2 == 1 ? holes[at / 2].ahead : holes[at / 2].behind) == room) {
                        return true;
                    }
                }
                return false;
            };
            if (way_m < furthest_m && !returns()) {
                candidates.push_back({way_m, &through, last});
            }
        }
    }
    std::sort(candidates.begin(), candidates.end(),
              [](const Candidate& a, const Candidate& b) { return a.way_m != b.way_m ? a.way_m < b.way_m : a.last < b.last; });
    // What comes to be left out has faded by then.
    const double border_m = candidates.size() > mostWays ? candidates[mostWays].way_m : furthest_m;
    candidates.resize(std::min(candidates.size(), mostWays));
    for (const Candidate& candidate : candidates) {
        RoomWay way;
        way.share = std::clamp((border_m - candidate.way_m) / fadingWay_m, 0.0, 1.0);
        if (way.share > 0.0) {
            trace(map, *candidate.through, candidate.last, to, way);
            ways.push_back(std::move(way));
        }
    }
}

} // namespace stone
