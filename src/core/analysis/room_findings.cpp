// SPDX-License-Identifier: MPL-2.0
#include "analysis/room_findings.h"

#include "analysis/words.h"
#include "project/edit.h"

#include <algorithm>
#include <array>
#include <vector>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

constexpr int samplesAside = 6; ///< of a room on each axis, to see whether it cuts into another

using Box3 = std::array<Vec3, 2>;

bool meet(const Box3& a, const Box3& b)
{
    return glm::all(glm::lessThan(a[0], b[1])) && glm::all(glm::lessThan(b[0], a[1]));
}

/// How many of a room's places lie in another, of how many.
std::pair<int, int> within(const Solid& room, const Solid& other)
{
    const auto [low, high] = room.box();
    int own = 0;
    int both = 0;
    for (int i = 0; i < samplesAside * samplesAside * samplesAside; ++i) {
        const Vec3 share{(i % samplesAside + 0.5) / samplesAside, (i / samplesAside % samplesAside + 0.5) / samplesAside,
                         (i / samplesAside / samplesAside + 0.5) / samplesAside};
        const Vec3 place = low + share * (high - low);
        if (room.contains(place)) {
            ++own;
            both += other.contains(place) ? 1 : 0;
        }
    }
    return {both, own};
}

} // namespace

void findInRooms(const Project& project, const Level& level, const RoomMap& map, std::vector<Finding>& found)
{
    const auto add = [&](const char* code, Severity severity, const std::string& what, const std::string& where,
                         const std::string& fix, std::vector<Remedy> remedies = {}) {
        found.push_back({.code = code,
                         .severity = severity,
                         .what = what,
                         .where = where,
                         .fix = fix,
                         .level = level.id,
                         .remedies = std::move(remedies)});
    };
    std::vector<Box3> boxes;
    for (std::uint32_t i = 0; i < map.size(); ++i) {
        boxes.push_back(map.solid(i).box());
    }
    for (std::uint32_t i = 0; i < map.size(); ++i) {
        const Room& room = *level.rooms[i];
        if (map.volume_m3(i) < 1.0) {
            add("room-empty", Severity::warning, quoted(room.name) + " has hardly any volume", "room " + quoted(room.name),
                "give it a shape");
        }
        for (std::uint32_t k = i + 1; k < map.size(); ++k) {
            if (!meet(boxes[i], boxes[k])) {
                continue;
            }
            const auto [inOther, own] = within(map.solid(i), map.solid(k));
            const auto [inThis, others] = within(map.solid(k), map.solid(i));
            // One in the other is a booth in a hall; cut into each other they are a slip.
            if (inOther * 10 > own && inThis * 10 > others && inOther * 10 < own * 9 && inThis * 10 < others * 9) {
                add("rooms-overlap", Severity::warning,
                    quoted(room.name) + " and " + quoted(level.rooms[k]->name) +
                        " cut into each other: where both are, the smaller counts",
                    "room " + quoted(room.name), "pull their walls apart");
            }
        }
    }
    for (std::size_t i = 0; i < level.openings.size(); ++i) {
        const Opening& opening = *level.openings[i];
        const std::string where = "opening " + quoted(opening.name);
        if (!map.holes()[i].joins()) {
            add("opening-joins-nothing", Severity::warning, quoted(opening.name) + " has the same space on both sides", where,
                "draw it across the wall between two rooms, or between a room and the outside",
                {{"Remove it", [level = level.id, id = opening.id](Project p) {
                      return withLevel(std::move(p), level, [&](Level& l) { l.openings.remove(id); });
                  }}});
        }
        const auto changed = [level = level.id, id = opening.id](void (*change)(Opening&)) {
            return [level, id, change](Project p) {
                return withLevel(std::move(p), level, [&](Level& l) {
                    Opening next = *l.openings.find(id);
                    change(next);
                    l.openings.put(std::move(next));
                });
            };
        };
        if (!opening.follows.empty() && project.gameValues.find(opening.follows) == nullptr) {
            add("opening-value-gone", Severity::warning,
                quoted(opening.name) + " follows the game value " + quoted(opening.follows.text) + ", which is gone", where,
                "choose another", {{"Follow none", changed([](Opening& o) { o.follows = {}; })}});
        }
        const auto gone = [&](const SignalId& signal) {
            return !signal.empty() && project.signalNames.find(signal) == nullptr;
        };
        if (gone(opening.opensOn)) {
            add("opening-signal-gone", Severity::warning,
                quoted(opening.name) + " opens on the signal " + quoted(opening.opensOn.text) + ", which is gone", where,
                "choose another", {{"Wait for none", changed([](Opening& o) { o.opensOn = {}; })}});
        }
        if (gone(opening.closesOn)) {
            add("opening-signal-gone", Severity::warning,
                quoted(opening.name) + " closes on the signal " + quoted(opening.closesOn.text) + ", which is gone", where,
                "choose another", {{"Wait for none", changed([](Opening& o) { o.closesOn = {}; })}});
        }
    }
}

} // namespace stone
