// SPDX-License-Identifier: MPL-2.0
#include "analysis/reverb_findings.h"

#include "acoustics/lane.h"
#include "analysis/words.h"
#include "project/edit.h"
#include "project/settings.h"
#include "world/walk_pose.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

constexpr double furthest_m = 100.0;
constexpr int columns = 5; ///< of a room on each side, for a look upwards
constexpr double openSky = 0.6;
constexpr double walkEvery_s = 0.1;
/// Whoever passes so near an opening passes through it.
constexpr double through_m = 1.2;
/// A send that never gets above this is none.
constexpr double dry_db = -60.0;

bool hasTail(const Room& room)
{
    return room.reverb.on && room.reverb.tail != Tail::none && room.reverb.late_db > -96.0;
}

class ReverbFindings
{
public:
    ReverbFindings(const Examined& examined, const Level& level, const RoomMap& map, const Ground* ground,
                   std::vector<Finding>& found)
        : e_(examined), level_(level), map_(map), ground_(ground), found_(found)
    {
    }

    void find()
    {
        for (std::uint32_t room = 0; room < map_.size(); ++room) {
            lookForResponse(*level_.rooms[room]);
            lookForSky(room);
            lookForWalls(*level_.rooms[room]);
        }
        if (ground_ == nullptr && level_.outside.echoes_db > -96.0) {
            add("echoes-without-walls", Severity::note,
                quoted(level_.name) + " is to throw echoes back outside, but it has no geometry",
                "level " + quoted(level_.name), "give it geometry in Level › Settings, or set Echoes outside to -96");
        }
        if (map_.empty()) {
            return;
        }
        for (const auto& walk : level_.walks) {
            lookAlong(*walk);
        }
        for (const auto& emitter : level_.emitters) {
            lookForDry(*emitter);
        }
    }

private:
    Finding& add(const char* code, Severity severity, std::string what, std::string where, std::string fix)
    {
        found_.push_back({.code = code,
                          .severity = severity,
                          .what = std::move(what),
                          .where = std::move(where),
                          .fix = std::move(fix),
                          .level = level_.id});
        return found_.back();
    }

    /// A remedy that changes one room.
    Remedy onRoom(const char* label, const RoomId& id, std::function<void(Reverb&)> change) const
    {
        return {label, [level = level_.id, id, change = std::move(change)](Project p) {
                    return withLevel(std::move(p), level, [&](Level& l) {
                        Room room = *l.rooms.find(id);
                        change(room.reverb);
                        l.rooms.put(std::move(room));
                    });
                }};
    }

    void lookForResponse(const Room& room)
    {
        if (room.reverb.tail != Tail::response) {
            return;
        }
        std::string what;
        if (room.reverb.response.empty()) {
            what = "has no impulse response yet";
        } else if (const auto path = e_.resolve(room.reverb.response); path.empty()) {
            what = "has the impulse response " + room.reverb.response + ", which leads outside the project's folder";
        } else {
            const SoundBank::Entry entry = e_.loading == Loading::now ? e_.bank.load(path, false, Keeping::decoded)
                                                                      : e_.bank.get(path, false, Keeping::decoded);
            if (entry.state != SoundBank::State::failed) {
                return;
            }
            what = "has an impulse response that cannot be read: " + entry.error;
        }
        Finding& finding = add("response-missing", Severity::error, quoted(room.name) + ' ' + what, "room " + quoted(room.name),
                               "choose a sound file for it; until then the room does not answer");
        finding.remedies = {onRoom("Work it out from the decay", room.id, [](Reverb& reverb) { reverb.tail = Tail::network; })};
    }

    /// Whether most of what is above a room's middle height is open.
    void lookForSky(std::uint32_t index)
    {
        const Room& room = *level_.rooms[index];
        if (ground_ == nullptr || !hasTail(room)) {
            return;
        }
        const auto [low, high] = map_.solid(index).box();
        int asked = 0;
        int open = 0;
        for (int i = 0; i < columns * columns; ++i) {
            const Vec3 share{(i % columns + 0.5) / columns, (i / columns + 0.5) / columns, 0.5};
            const Vec3 at = low + share * (high - low);
            if (map_.solid(index).contains(at)) {
                ++asked;
                open += ground_->distanceTo(at, {0.0, 0.0, 1.0}, furthest_m) ? 0 : 1;
            }
        }
        if (asked > 0 && open > openSky * asked) {
            Finding& finding = add("room-open-sky", Severity::warning,
                                   quoted(room.name) + " rings like a room, but over most of it there is open sky",
                                   "room " + quoted(room.name), "let it throw single echoes only, or make it smaller");
            finding.remedies = {onRoom("Only echoes", room.id, [](Reverb& reverb) { reverb.tail = Tail::none; })};
        }
    }

    void lookForWalls(const Room& room)
    {
        if (ground_ == nullptr && room.reverb.on && room.reverb.tail == Tail::none && room.reverb.early_db > -96.0) {
            Finding& finding =
                add("echoes-without-walls", Severity::note,
                    quoted(room.name) + " throws the echoes of the level's own walls back, but the level has no geometry",
                    "room " + quoted(room.name), "give the level geometry in Level › Settings, or let the room ring");
            finding.remedies = {onRoom("Let it ring", room.id, [](Reverb& reverb) { reverb.tail = Tail::network; })};
        }
    }

    bool passedBetween(std::uint32_t one, std::uint32_t other, const Vec3& place) const
    {
        const auto& holes = map_.holes();
        return std::any_of(holes.begin(), holes.end(), [&](const RoomMap::Hole& hole) {
            const bool between = (hole.behind == one && hole.ahead == other) || (hole.behind == other && hole.ahead == one);
            return between && glm::length(hole.nearest(place) - place) < through_m;
        });
    }

    std::string called(std::uint32_t room) const
    {
        return room == RoomMap::outside ? "the outside" : quoted(level_.rooms[room]->name);
    }

    void lookAlong(const Walk& walk)
    {
        std::set<std::pair<std::uint32_t, std::uint32_t>> told;
        std::optional<std::uint32_t> before;
        for (double t = 0.0; t <= walk.seconds(); t += walkEvery_s) {
            const Vec3 ears = headOf(level_.character, walkPose(walk, t)).at;
            const std::uint32_t now = map_.roomAt(ears);
            const std::uint32_t last = std::exchange(before, now).value_or(now);
            const auto rings = [&](std::uint32_t room) { return room != RoomMap::outside && hasTail(*level_.rooms[room]); };
            if (now == last || (!rings(now) && !rings(last)) || passedBetween(last, now, ears) ||
                !told.insert(std::minmax(last, now)).second) {
                continue;
            }
            add("reverb-jumps", Severity::warning,
                quoted(walk.name) + " goes from " + called(last) + " to " + called(now) + " at " + number("%.1f s", t) +
                    " where no opening joins them: the reverb changes at a stroke",
                "walk " + quoted(walk.name), "draw an opening there, or pull the room's wall to where one goes in");
        }
    }

    void lookForDry(const Emitter& emitter)
    {
        const std::uint32_t room = map_.roomAt(emitter.at);
        const bool placed = emitter.kind == EmitterKind::point || emitter.kind == EmitterKind::area;
        if (!placed || emitter.placement.inWorld <= 0.0 || room == RoomMap::outside || !hasTail(*level_.rooms[room])) {
            return;
        }
        double loudest_db = 0.0;
        bool own = false;
        const auto weigh = [&](const std::vector<Lane>& lanes, bool isOwn) {
            for (const Lane& lane : lanes) {
                if (lane.property != LaneProperty::send || !lane.on || lane.curve.empty()) {
                    continue;
                }
                own = own || isOwn;
                double highest = laneSilent_db;
                for (const CurvePoint& point : lane.curve) {
                    highest = std::max(highest, laneAt(lane, point.x));
                }
                loudest_db += highest;
            }
        };
        weigh(emitter.lanes, true);
        weigh(falloffOf(e_.project, emitter).lanes, false);
        if (loudest_db > dry_db) {
            return;
        }
        Finding& finding = add("emitter-dry", Severity::note,
                               quoted(emitter.name) + " stands in " + called(room) + " and gives it nothing to answer",
                               "emitter " + quoted(emitter.name), "raise its reverb send, if it was not meant to be dry");
        finding.emitter = emitter.id;
        if (own) {
            finding.remedies = {{"Let the room hear it", [level = level_.id, id = emitter.id](Project p) {
                                     return withEmitter(std::move(p), level, id, [](Emitter& e) {
                                         for (Lane& lane : e.lanes) {
                                             lane.on = lane.on && lane.property != LaneProperty::send;
                                         }
                                     });
                                 }}};
        }
    }

    const Examined& e_;
    const Level& level_;
    const RoomMap& map_;
    const Ground* ground_;
    std::vector<Finding>& found_;
};

} // namespace

void findInReverb(const Examined& examined, const Level& level, const RoomMap& map, const Ground* ground,
                  std::vector<Finding>& found)
{
    ReverbFindings(examined, level, map, ground, found).find();
}

} // namespace stone
