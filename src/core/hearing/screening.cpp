// SPDX-License-Identifier: MPL-2.0
#include "hearing/model.h"

#include "acoustics/distance.h"
#include "dsp/decibel.h"
#include "world/gazing.h"

#include <algorithm>
#include <cmath>

/// What walls, openings and gaze make of what sounds.
namespace stone
{

namespace
{

/// How fast what walls take comes to its value, seconds to within a third; faster only when the document says so.
constexpr double wallsFollow_s = 0.04;
/// The shortest time in which a gaze comes and goes.
constexpr double leastGaze_s = 0.03;

} // namespace

bool HearingModel::screens(const Emitter& emitter) const
{
    // Beds surround, steps fall where the listener's own body is, and a pulse lies on the wall that it tells of.
    const bool stands = emitter.kind != EmitterKind::bed && !isOfCharacter(emitter.kind);
    return occluder_.active() && stands && emitter.screening.on;
}

/// Nobody who listens on and on needs to know what stands before a sound that is silent for another reason.
bool HearingModel::silenced(const Source& source, const Start& start, const Moment& moment) const
{
    return source.muted || source.familyMuted || source.mutedForEars || source.soloElsewhere || source.sharedBy ||
           start.began_s > moment.when.to_s || start.ends_s <= moment.when.from_s || start.pausedAt_s;
}

Occluder::Source HearingModel::soundingFrom(const Moment& moment, const Heard& heard, HearScratch& scratch) const
{
    const Vec3& at = heard.at;
    const Source& source = sources_[heard.index];
    std::vector<Occluder::Source::Point>& points = scratch.points;
    points.clear();
    Occluder::Source sounding{
        .centre = at, .points = {}, .clear_m = source.emitter->screening.clear_m, .housing = source.housing};
    if (source.kind == EmitterKind::point && source.emitter->riding.on == Riding::On::nothing && !heard.start.at) {
        sounding.still = heard.index;
    }
    scratch.leaves.clear();
    if (roomField_.active()) {
        const std::uint32_t room = roomField_.map().roomAt(at);
        sounding.elsewhere = room != scratch.rooms.room;
        if (sounding.elsewhere) {
            sounding.ways = roomField_.waysTo(at, room, scratch.rooms);
            // Rays may pass what stands in the openings of either room.
            for (const std::uint32_t of : {room, scratch.rooms.room}) {
                roomField_.map().holesNear(at, of, scratch.rooms.holes);
                for (const std::uint32_t hole : scratch.rooms.holes) {
                    scratch.leaves.push_back({&roomField_.map().holes()[hole], roomField_.through(hole, scratch.rooms.open)});
                }
            }
            // An opening between the two belongs to both, and stops them once.
            std::sort(scratch.leaves.begin(), scratch.leaves.end(),
                      [](const auto& a, const auto& b) { return a.hole < b.hole; });
            const auto same = [](const auto& a, const auto& b) { return a.hole == b.hole; };
            scratch.leaves.erase(std::unique(scratch.leaves.begin(), scratch.leaves.end(), same), scratch.leaves.end());
            sounding.leaves = scratch.leaves;
        }
    }
    if (source.kind != EmitterKind::area) {
        for (const Vec3& offset : source.extent) {
            points.push_back({at + offset, 1.0});
        }
        sounding.points = points;
        return sounding;
    }
    // Of something large the near parts are heard most: by their power at the ears.
    const auto weigh = [&](const Vec3& place) {
        const Vec3 way = place - moment.ears.at;
        points.push_back({place, 1.0 / (1.0 + glm::dot(way, way))});
    };
    weigh(at);
    const auto gather = [&](std::uint32_t area) {
        const Carriage carriage = world_->carriageOf(sources_[area].emitter->riding, moment);
        for (const Vec3& own : sources_[area].extent) {
            weigh(carriage.placed(own));
        }
    };
    gather(heard.index);
    for (const std::uint32_t other : source.sharers) {
        gather(other);
    }
    sounding.points = points;
    return sounding;
}

void HearingModel::screen(const Moment& moment, const Source& source, Heard& heard, HearScratch& scratch) const
{
    const auto reckon = [&] { return occluder_.screen(moment.ears.at, soundingFrom(moment, heard, scratch), scratch.walls); };
    if (!scratch.memory) {
        heard.screened = reckon();
        return;
    }
    if (silenced(source, heard.start, moment)) {
        return;
    }
    HearMemory::Kept& kept = scratch.memory->of(heard.start);
    if (scratch.memory->due(heard.start.emitter, kept, moment.ears.at)) {
        kept.reckoned(reckon(), moment.ears.at);
    }
    heard.screened = remembered(moment, *scratch.memory, kept);
}

/// What walls take from it, and through which openings it comes instead.
void HearingModel::takeWalls(const Moment& moment, Heard& heard, HearScratch& scratch) const
{
    const Source& source = sources_[heard.index];
    if (source.inWorld <= 0.0 || source.extent.empty()) {
        return;
    }
    screen(moment, source, heard, scratch);
    const Screened& screened = heard.screened;
    const double walls_db = screened.level_db();
    if (screened.rays > screened.free || walls_db < 0.0) {
        if (Term* const parts = heard.terms.find(TermKind::placement); parts != nullptr) {
            // Only the part in the world is behind them.
            const double left = heard.worldShare * powerOf(-walls_db);
            const double all = left + 1.0 - heard.worldShare;
            parts->db += 10.0 * std::log10(all);
            heard.worldShare = left / all;
        } else {
            heard.terms.insert(TermKind::walls, walls_db);
        }
    }
    if (screened.turned > 0.0) {
        // What comes through openings comes from there, as wide as it is.
        heard.direction = heard.direction * (1.0 - screened.turned) +
                          scratch.frame.seen(screened.towards) * (glm::length(heard.direction) * screened.turned);
    }
}

void HearingModel::addWalls(const Moment& moment, Heard& heard, HearScratch& scratch) const
{
    takeWalls(moment, heard, scratch);
    heard.level_db = heard.terms.total();
    heard.audible = heard.level_db >= audible_db;
}

Screened HearingModel::remembered(const Moment& moment, const HearMemory& memory, HearMemory::Kept& kept) const
{
    const bool atOnce = kept.fresh || !memory.paced();
    const double step_s = moment.when.to_s - moment.when.from_s;
    const double most_db = project().occlusion.change_db_s * step_s;
    const double share = 1.0 - std::exp(-step_s / wallsFollow_s);
    for (std::size_t band = 0; band < kept.loss_db.size(); ++band) {
        const double missing = kept.wanted.loss_db[band] - kept.loss_db[band];
        kept.loss_db[band] += atOnce ? missing : std::clamp(missing * share, -most_db, most_db);
    }
    const double near = atOnce ? 1.0 : share;
    kept.turned += (kept.wanted.turned - kept.turned) * near;
    kept.towards += (kept.wanted.towards - kept.towards) * near;
    kept.detour_m += (kept.wanted.detour_m - kept.detour_m) * near;
    kept.fresh = false;
    Screened now = kept.wanted;
    now.loss_db = kept.loss_db;
    now.turned = kept.turned;
    now.towards = kept.towards;
    now.detour_m = kept.detour_m;
    return now;
}

std::optional<Explained> HearingModel::explain(const Moment& moment, const Heard& heard) const
{
    if (sources_[heard.index].extent.empty()) {
        return {};
    }
    Explained told;
    HearScratch scratch;
    if (roomField_.active()) {
        roomField_.prepare(moment, scratch.rooms, 0.0);
    }
    occluder_.screen(moment.ears.at, soundingFrom(moment, heard, scratch), scratch.walls, &told);
    return told;
}

void HearingModel::gazeAt(const Moment& moment, const Source& source, const Vec3& at, Heard& heard, HearScratch& scratch) const
{
    const bool counts = !source.gazes.empty() && !scratch.withoutGaze;
    if (counts || !scratch.withoutDirections) {
        heard.offGaze_deg = angleBetween_deg(scratch.looksAlong, at - moment.gaze.at);
    }
    if (!counts) {
        return;
    }
    HearMemory::Kept* kept = scratch.memory ? &scratch.memory->of(heard.start) : nullptr;
    const bool fresh = kept != nullptr && (kept->gazes.size() != source.gazes.size() || !scratch.memory->paced());
    if (fresh) {
        kept->gazes.resize(source.gazes.size());
    }
    const ZonesAt& zones = moment.state != nullptr ? moment.state->zones : scratch.zones;
    for (std::size_t i = 0; i < source.gazes.size(); ++i) {
        const Gaze& gaze = *project().gazes[source.gazes[i]];
        Gazed now;
        if (world_->gazes(source.gazes[i], moment, zones)) {
            const double off_deg = gaze.horizontal ? offGaze_deg(moment.gaze, at, true) : heard.offGaze_deg;
            LaneValues values;
            for (const Lane& lane : gaze.lanes) {
                values.add(lane.property, std::max(laneAt(lane, off_deg), laneSilent_db));
            }
            now = {values.level_db, values.nearness, values.priority};
        }
        if (kept != nullptr) {
            Gazed& before = kept->gazes[i];
            const double step_s = moment.when.to_s - moment.when.from_s;
            const auto follow = [&](double from, double to, bool rises) {
                // Three time constants: within a twentieth.
                const double takes_s = std::max(rises ? gaze.rise_s : gaze.fall_s, leastGaze_s);
                return fresh ? to : from + (to - from) * (1.0 - std::exp(-3.0 * step_s / takes_s));
            };
            now = {follow(before.level_db, now.level_db, now.level_db > before.level_db),
                   follow(before.nearness, now.nearness, now.nearness < before.nearness),
                   follow(before.priority, now.priority, now.priority > before.priority)};
            before = now;
        }
        heard.gazed.level_db += now.level_db;
        heard.gazed.nearness *= now.nearness;
        heard.gazed.priority += now.priority;
    }
}

} // namespace stone
