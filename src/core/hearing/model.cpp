// SPDX-License-Identifier: MPL-2.0
#include "hearing/model.h"

#include "dsp/band_filter.h"
#include "hearing/loudest_start.h"

#include "acoustics/distance.h"
#include "acoustics/facing.h"
#include "dsp/decibel.h"
#include "dsp/state_variable_filter.h"
#include "geometry/spread.h"
#include "project/edit.h"
#include "world/gazing.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>

namespace stone
{

namespace
{

/// As old as what is spread round corners may be for somebody who listens on and on.
constexpr double staleBy_m = 0.15;
/// The last part of a reach, over which what a source gives to rooms fades out.
constexpr double fadingReach = 0.2;

bool isEverywhere(const Emitter& emitter, const std::optional<std::uint32_t>& zone)
{
    return emitter.kind == EmitterKind::bed && !zone;
}

/// Whether a lane needs to know from where something is heard.
bool asksDirection(const Lane& lane)
{
    return lane.over == LaneInput::offFront || lane.over == LaneInput::direction;
}

/// Those of the project's gazes that count for an emitter.
std::vector<std::uint32_t> gazesFor(const Project& project, const Emitter& emitter)
{
    std::vector<std::uint32_t> gazes;
    for (std::uint32_t g = 0; g < project.gazes.size(); ++g) {
        if (emitter.kind != EmitterKind::bed && isFor(*project.gazes[g], emitter)) {
            gazes.push_back(g);
        }
    }
    return gazes;
}

} // namespace

HearingModel::Source HearingModel::gather(std::uint32_t index, const ForEars& forEars) const
{
    const Emitter& emitter = *level().emitters[index];
    const Sound* sound = project().sounds.find(emitter.sound);
    const Family* family = project().families.find(emitter.family);
    const auto zone = world_->zones().indexOf(emitter.zone);
    return {.kind = emitter.kind,
            .muted = emitter.muted,
            .familyMuted = family != nullptr && family->muted,
            .mutedForEars = forEars.muted.contains(emitter.id),
            .soloElsewhere =
                forEars.anySolo() && !forEars.solo.contains(emitter.id) && !forEars.soloFamilies.contains(emitter.family),
            .priority = priorityOf(project(), emitter),
            .emitter_db = emitter.level_db,
            .lowPass_hz = family != nullptr ? family->lowPass_hz : openLowPass_hz,
            .highPass_hz = family != nullptr ? family->highPass_hz : openHighPass_hz,
            // What was made for two ears has no place in the world.
            .inWorld = sound != nullptr && sound->binaural ? 0.0 : emitter.placement.inWorld,
            .forTwoEars = sound != nullptr && sound->binaural,
            .reach_m = isEverywhere(emitter, zone) ? boundless : parts_[index]->silentFrom_m,
            .zone = zone,
            .sharers = {},
            .sharedBy = {},
            .emitter = &emitter,
            .falloff = &falloffOf(project(), emitter),
            .otherFalloff =
                family != nullptr && !family->otherFalloff.empty() ? project().falloffs.find(family->otherFalloff) : nullptr,
            .family = family,
            .gazes = gazesFor(project(), emitter),
            .turned = std::any_of(emitter.lanes.begin(), emitter.lanes.end(), asksDirection),
            .extent = parts_[index]->extent,
            .housing = screens(emitter) ? occluder_.nodeOf(emitter.screening.housing) : std::nullopt};
}

/// Areas of one sound that share: the first has the voice, from wherever any of them is.
void HearingModel::shareVoices()
{
    std::map<SoundId, std::uint32_t> firsts;
    for (std::uint32_t i = 0; i < sources_.size(); ++i) {
        const Emitter& emitter = *sources_[i].emitter;
        if (emitter.kind != EmitterKind::area || !emitter.area.sharesVoice) {
            continue;
        }
        const auto [first, alone] = firsts.emplace(emitter.sound, i);
        if (!alone) {
            sources_[i].sharedBy = first->second;
            sources_[first->second].sharers.push_back(i);
        }
    }
}

/// Beyond this nobody needs to ask: it cannot be heard there.
Sphere HearingModel::askedWithin(std::uint32_t index) const
{
    const Source& source = sources_[index];
    if (givesShots(source.kind)) {
        return {Vec3{1e12}, 0.0};
    }
    const double within_m = isEverywhere(*source.emitter, source.zone) ? boundless : parts_[index]->audibleWithin_m;
    Sphere range = world_->rangeOf(index);
    for (const std::uint32_t other : source.sharers) {
        const Sphere more = world_->rangeOf(other);
        range.radius_m = std::max(range.radius_m, glm::length(more.centre - range.centre) + more.radius_m);
    }
    range.radius_m += within_m;
    return range;
}

HearingModel::HearingModel(const std::shared_ptr<const Project>& project, const LevelId& level, LengthOf length)
    : HearingModel(std::make_shared<const World>(project, level, nullptr, std::move(length)))
{
}

HearingModel::HearingModel(std::shared_ptr<const World> world, const ForEars& forEars, std::vector<bool> unreadable,
                           const HearingModel* before)
    : world_(std::move(world)), unreadable_(std::move(unreadable)), air_db_m_(airLoss_db_m(world_->project().air)),
      occluder_(world_->sharedProject(), world_->level(), world_->sharedGround(), world_->ways() == Ways::find),
      roomField_(*world_, world_->rooms()), reflections_(*world_, roomField_)
{
    const auto& emitters = level().emitters;
    parts_.reserve(emitters.size());
    sources_.reserve(emitters.size());
    const HearingModel* sharing = before != nullptr && sharesParts(*before) ? before : nullptr;
    for (std::uint32_t i = 0; i < emitters.size(); ++i) {
        parts_.push_back(partOf(sharing, i));
        sources_.push_back(gather(i, forEars));
    }
    shareVoices();
    listLimits();
    std::vector<Sphere> spheres;
    spheres.reserve(emitters.size());
    for (std::uint32_t i = 0; i < emitters.size(); ++i) {
        spheres.push_back(askedWithin(i));
    }
    index_ = SphereIndex(spheres);
}

bool HearingModel::sharesParts(const HearingModel& other) const
{
    const Project& a = project();
    const Project& b = other.project();
    // Walls count from when they have been searched for what they are.
    return world_->ground() == other.world_->ground() && occluder_.active() == other.occluder_.active() &&
           a.occlusion == b.occlusion && a.sounds.shares(b.sounds) && a.falloffs.shares(b.falloffs) &&
           a.families.shares(b.families) && a.patterns.shares(b.patterns) && a.gazes.shares(b.gazes);
}

std::shared_ptr<const HearingModel::Part> HearingModel::partOf(const HearingModel* before, std::uint32_t index) const
{
    const auto& emitter = level().emitters[index];
    if (before != nullptr) {
        // Mostly it is where it was.
        const auto& there = before->level().emitters;
        const auto same =
            index < there.size() && there[index] == emitter ? std::optional<std::size_t>(index) : there.indexOf(emitter->id);
        if (same && there[*same] == emitter) {
            return before->parts_[*same];
        }
    }
    auto part = std::make_shared<Part>();
    part->emitter = emitter;
    part->silentFrom_m = stone::silentFrom_m(project(), *emitter);
    part->audibleWithin_m = stone::audibleWithin_m(project(), *emitter);
    part->extent = extentOf(index);
    return part;
}

/// Where the rays to an emitter go.
std::vector<Vec3> HearingModel::extentOf(std::uint32_t index) const
{
    const Emitter& emitter = *level().emitters[index];
    if (!screens(emitter)) {
        return {};
    }
    const int rays = project().occlusion.rays;
    if (emitter.kind != EmitterKind::area) {
        std::vector<Vec3> extent = pointsInBall(emitter.screening.size_m > 0.0 ? rays : 1, emitter.id.text);
        for (Vec3& point : extent) {
            point *= emitter.screening.size_m;
        }
        return extent;
    }
    const Solid& solid = *world_->solidOf(index);
    const auto [low, high] = solid.box();
    std::vector<Vec3> extent;
    for (const Vec3& point : pointsInCube(rays - 1, emitter.id.text)) {
        extent.push_back(solid.nearest(low + point * (high - low)));
    }
    return extent;
}

/// Its own, or that by which its family is heard just now.
const Falloff& HearingModel::falloffAt(const Moment& moment, const Source& source) const
{
    if (source.otherFalloff == nullptr) {
        return *source.falloff;
    }
    const Condition& when = source.family->otherWhen;
    const double now = world_->valueAt(moment, when.value);
    const bool holds = when.comparison == Comparison::atLeast ? now >= when.number : now <= when.number;
    return holds ? *source.otherFalloff : *source.falloff;
}

/// What its family makes of distances: stretched by its reach, and by its lanes over game values.
double HearingModel::familyNearness(const Moment& moment, const Source& source) const
{
    if (source.family == nullptr) {
        return 1.0;
    }
    double nearness = 1.0 / source.family->reachFactor;
    for (const Lane& lane : source.family->lanes) {
        if (lane.on && lane.property == LaneProperty::nearness) {
            nearness *= std::max(laneAt(lane, world_->valueAt(moment, lane.value)), 0.0);
        }
    }
    return nearness;
}

/// Distance, facing, direction, placement and width of what has a place, as if there were no walls.
void HearingModel::placeInWorld(const Moment& moment, const Source& source, const Extent& extent, Heard& heard,
                                HearScratch& scratch) const
{
    const Emitter& emitter = *source.emitter;
    const bool pointLike = source.kind != EmitterKind::bed && source.kind != EmitterKind::area;
    heard.at = extent.at;
    heard.front_deg = extent.front_deg;
    if (!scratch.withoutDirections || source.turned) {
        heard.bearing = bearingOf(scratch.frame, moment.ears.at, extent.at);
        heard.offFront_deg = offFront_deg(extent.front_deg, emitter.tilt_deg, extent.at, moment.ears.at);
    } else {
        heard.bearing.distance_m = glm::length(extent.at - moment.ears.at);
    }
    gazeAt(moment, source, extent.at, heard, scratch);
    const double ruler_m = extent.distance_m * heard.gazed.nearness * familyNearness(moment, source);

    Terms world;
    for (const Lane& lane : falloffAt(moment, source).lanes) {
        if (lane.property != LaneProperty::level) {
            heard.values.add(lane.property, laneAt(lane, ruler_m));
        } else if (lane.on && lane.shape == LaneShape::formula) {
            world.add(TermKind::distance, levelOf(distanceGain(lane.formula, ruler_m)));
            const double reach = reachGain(lane.formula, ruler_m);
            if (reach < 1.0) {
                world.add(TermKind::reach, levelOf(reach));
            }
        } else {
            world.add(TermKind::distance, laneAt(lane, ruler_m));
        }
    }
    for (const Lane& lane : emitter.lanes) {
        // What fills a shape faces nowhere and comes from no one side.
        if (!lane.on || !asksDirection(lane) || !pointLike) {
            continue;
        }
        const double value = laneAt(lane, lane.over == LaneInput::offFront ? heard.offFront_deg : heard.bearing.azimuth_deg);
        if (lane.property == LaneProperty::level) {
            world.add(lane.over == LaneInput::offFront ? TermKind::facing : TermKind::direction, value);
        } else {
            heard.values.add(lane.property, value);
        }
    }
    heard.opened = pointLike ? 0.0 : 1.0 - extent.closed;
    double inWorld = source.inWorld;
    if (source.kind == EmitterKind::bed && !emitter.placement.imageInWorld) {
        // As it opens, its image goes over from the zone's direction to the head.
        inWorld *= extent.closed;
    }
    heard.values.placement = std::clamp(heard.values.placement * inWorld, 0.0, 1.0);
    heard.values.spread_deg = std::max(heard.values.spread_deg, emitter.placement.spread_deg);
    if (heard.values.placement >= 1.0) {
        for (const Term& term : world) {
            heard.terms.add(term.kind, term.db);
        }
    } else if (source.kind == EmitterKind::bed || source.forTwoEars) {
        // Its part in the ears is the same sound at the same level.
        for (const Term& term : world) {
            heard.terms.add(term.kind, term.db);
        }
        heard.worldShare = heard.values.placement;
    } else {
        // Two parts of unlike ways: their powers add.
        const double power = heard.values.placement * std::pow(gainOf(world.total()), 2.0);
        const double all = power + 1.0 - heard.values.placement;
        heard.terms.add(TermKind::placement, levelOf(std::sqrt(all)));
        heard.worldShare = power / all;
    }
    const Vec3 mean = extent.mean * (extent.closed * widthToLength(heard.values.spread_deg));
    heard.direction = scratch.frame.seen(mean);
    heard.air_m = emitter.placement.air ? extent.distance_m : 0.0;
}

/// Lanes over speed, depth and game values.
void HearingModel::followLanes(const Moment& moment, const Source& source, Heard& heard) const
{
    const auto follow = [&](LaneInput over, TermKind kind, auto&& at) {
        double level_db = 0.0;
        const auto add = [&](const Lane& lane) {
            if (!lane.on || lane.over != over || lane.property == LaneProperty::nearness) {
                return;
            }
            const double value = laneAt(lane, at(lane));
            if (lane.property == LaneProperty::level) {
                level_db += value;
            } else {
                heard.values.add(lane.property, value);
            }
        };
        std::for_each(source.emitter->lanes.begin(), source.emitter->lanes.end(), add);
        if (source.family != nullptr) {
            std::for_each(source.family->lanes.begin(), source.family->lanes.end(), add);
        }
        if (level_db != 0.0) {
            heard.terms.add(kind, level_db);
        }
    };
    follow(LaneInput::speed, TermKind::speed, [&](const Lane&) { return heard.speed_m_s; });
    follow(LaneInput::depth, TermKind::depth, [&](const Lane&) { return heard.depth_m; });
    follow(LaneInput::gameValue, TermKind::value, [&](const Lane& lane) { return world_->valueAt(moment, lane.value); });
}

const LaneValues& HearingModel::fadesOf(const Moment& moment, std::uint32_t zone, HearScratch& scratch) const
{
    for (const auto& [known, values] : scratch.fades) {
        if (known == zone) {
            return values;
        }
    }
    const ZonesAt& zones = moment.state != nullptr ? moment.state->zones : scratch.zones;
    scratch.fades.emplace_back(
        zone, world_->zones().fadesOf(zone, zones, [&](const GameValueId& id) { return world_->valueAt(moment, id); }));
    return scratch.fades.back().second;
}

void HearingModel::prepare(const Moment& moment, HearScratch& scratch) const
{
    scratch.fades.clear();
    scratch.zones.clear();
    scratch.frame = frameOf(moment.ears);
    scratch.looksAlong = aheadOf(moment.gaze.heading_deg, moment.gaze.pitch_deg);
    if (scratch.memory) {
        scratch.memory->begin();
        scratch.walls.staleBy_m = staleBy_m;
    }
    if (moment.state == nullptr && world_->zones().size() > 0) {
        world_->zonesAt(moment, scratch.zones);
    }
    scratch.roomsHeard.clear();
    if (roomField_.active()) {
        roomField_.prepare(moment, scratch.rooms, scratch.memory ? staleBy_m : 0.0);
        if (!scratch.withoutRooms) {
            const auto screen = [&](std::uint32_t opening, const Occluder::Source& from) {
                const auto reckon = [&] { return occluder_.screen(moment.ears.at, from, scratch.walls); };
                if (!scratch.memory) {
                    return reckon();
                }
                HearMemory::Kept& kept = scratch.memory->ofOpening(opening);
                if (scratch.memory->due(opening, kept, moment.ears.at)) {
                    kept.reckoned(reckon(), moment.ears.at);
                }
                return remembered(moment, *scratch.memory, kept);
            };
            roomField_.hear(moment, screen, scratch.rooms, scratch.roomsHeard);
        }
    }
}

/// What a source gives to the rooms round it: its own level, whatever the way to the ears takes from it.
void HearingModel::excite(const Source& source, const Vec3& ears, Heard& heard, const HearScratch& scratch) const
{
    const bool bed = source.kind == EmitterKind::bed;
    if (bed ? !source.emitter->placement.roomsAnswer : source.inWorld <= 0.0) {
        return;
    }
    double level_db = heard.values.send_db + (bed ? 0.0 : levelOf(std::sqrt(source.inWorld)));
    for (const Term& term : heard.terms) {
        switch (term.kind) {
        case TermKind::distance:
        case TermKind::reach:
        case TermKind::facing:
        case TermKind::direction:
        case TermKind::walls:
        case TermKind::placement: break;
        default: level_db += term.db;
        }
    }
    // Where it ends to be heard at all, so do its echoes.
    if (std::isfinite(source.reach_m)) {
        const double left = std::clamp((source.reach_m - heard.bearing.distance_m) / (fadingReach * source.reach_m), 0.0, 1.0);
        level_db += levelOf(left);
    }
    if (level_db < audible_db - 60.0) {
        return;
    }
    heard.given_db = level_db;
    // A bed is wherever it is heard.
    const Vec3& at = bed && !source.zone ? ears : heard.at;
    heard.room = roomField_.map().roomAt(at);
    heard.sends = roomField_.sendsOf(at, level_db, scratch.rooms.open);
    double energy = 0.0;
    for (const RoomSend& send : heard.sends) {
        for (const RoomHeard& room : scratch.roomsHeard) {
            if (send.room == room.room) {
                energy += std::pow(10.0, send.level_db / 10.0) * room.share() * roomField_.lateEnergy(room.room);
            }
        }
    }
    heard.reverb_db = energy > 1e-20 ? 10.0 * std::log10(energy) : -200.0;
}

void HearingModel::addUp(const std::vector<Heard>& heard, const RoomField& field, std::vector<RoomHeard>& rooms)
{
    for (RoomHeard& room : rooms) {
        double energy = 0.0;
        for (const Heard& one : heard) {
            for (const RoomSend& send : one.sends) {
                energy += send.room == room.room ? std::pow(10.0, send.level_db / 10.0) : 0.0;
            }
        }
        energy *= room.share() * field.lateEnergy(room.room);
        room.level_db = energy > 1e-20 ? 10.0 * std::log10(energy) : -200.0;
    }
}

std::vector<RoomHeard> HearingModel::hearRooms(const Moment& moment) const
{
    HearScratch scratch;
    std::vector<Heard> heard;
    hearAll(moment, heard, scratch);
    return scratch.roomsHeard;
}

Heard HearingModel::hearFrom(const Moment& moment, std::uint32_t index, const Start& start, HearScratch& scratch) const
{
    const Source& source = sources_[index];
    Heard heard;
    heard.index = index;
    heard.start = start;
    const Sound* sound = start.playable != Start::nothing ? world_->playables()[start.playable].sound.get() : nullptr;
    heard.terms.add(TermKind::sound, sound != nullptr ? sound->level_db + start.level_db : 0.0);
    heard.terms.add(TermKind::emitter, source.emitter_db);
    heard.values.add(LaneProperty::lowPass, source.lowPass_hz);
    heard.values.add(LaneProperty::highPass, source.highPass_hz);
    if (sound != nullptr) {
        heard.values.add(LaneProperty::lowPass, sound->lowPass_hz);
        heard.values.add(LaneProperty::highPass, sound->highPass_hz);
    }
    if (source.family != nullptr && source.family->level_db != 0.0) {
        heard.terms.add(TermKind::family, source.family->level_db);
    }
    heard.speed_m_s = glm::length(moment.ears.velocity_m_s);
    if (isEverywhere(*source.emitter, source.zone)) {
        heard.opened = 1.0;
        heard.front_deg = source.emitter->heading_deg;
        heard.worldShare = source.emitter->placement.imageInWorld ? 1.0 : 0.0;
        heard.values.placement = heard.worldShare;
    } else {
        const Extent extent = extentOf(moment, source, index, start, !scratch.withoutDirections);
        heard.speed_m_s = glm::length(moment.ears.velocity_m_s - extent.velocity_m_s);
        placeInWorld(moment, source, extent, heard, scratch);
        if (!scratch.withoutWalls) {
            takeWalls(moment, heard, scratch);
        }
        heard.travelled_m = travelled_m(moment, source, index, start, extent);
        if (extent.moving < 1.0) {
            heard.terms.add(TermKind::resting, levelOf(extent.moving));
        }
    }
    heard.imageTurn_deg = source.emitter->placement.imageInWorld ? heard.front_deg - moment.ears.heading_deg : 0.0;
    if (source.zone) {
        const ZonesAt& zones = moment.state != nullptr ? moment.state->zones : scratch.zones;
        heard.depth_m = zones.depth(*source.zone);
        const LaneValues& fades = fadesOf(moment, *source.zone, scratch);
        if (fades.level_db != 0.0) {
            heard.terms.add(TermKind::zones, fades.level_db);
        }
        heard.values.add(LaneProperty::lowPass, fades.lowPass_hz);
        heard.values.add(LaneProperty::highPass, fades.highPass_hz);
        heard.values.add(LaneProperty::send, fades.send_db);
    }
    followLanes(moment, source, heard);
    if (heard.gazed.level_db != 0.0) {
        heard.terms.add(TermKind::gaze, heard.gazed.level_db);
    }
    heard.values.priority += heard.gazed.priority;
    if (source.muted) {
        heard.terms.add(TermKind::muted, silence_db);
    }
    if (source.familyMuted) {
        heard.terms.add(TermKind::familyMuted, silence_db);
    }
    if (source.mutedForEars) {
        heard.terms.add(TermKind::mutedForEars, silence_db);
    }
    if (source.soloElsewhere) {
        heard.terms.add(TermKind::soloElsewhere, silence_db);
    }
    if (soundless(index, start)) {
        heard.terms.add(TermKind::noSound, silence_db);
    }
    if (source.sharedBy) {
        heard.terms.add(TermKind::shared, silence_db);
    }
    if (const double left = moment.when.always() ? 1.0 : start.fading(moment.when.to_s); left < 1.0) {
        heard.terms.add(TermKind::fadingOut, levelOf(left));
    }
    if (start.began_s > moment.when.to_s || start.ends_s <= moment.when.from_s || start.pausedAt_s) {
        heard.terms.add(TermKind::timing, silence_db);
    }
    heard.level_db = heard.terms.total();
    if (!scratch.withoutRooms && (roomField_.active() || reflections_.any(RoomMap::outside))) {
        excite(source, moment.ears.at, heard, scratch);
    }
    heard.audible = std::max(heard.level_db, heard.reverb_db) >= audible_db;
    return heard;
}

bool HearingModel::soundless(std::uint32_t index, const Start& start) const
{
    if (start.playable == Start::nothing && isOfCharacter(sources_[index].kind)) {
        return false; // what is walked on, and what lies ahead, has the sounds
    }
    const std::uint32_t playable =
        start.playable != Start::nothing ? start.playable : world_->playableOf(index).value_or(Start::nothing);
    return playable == Start::nothing || (playable < unreadable_.size() && unreadable_[playable]);
}

void HearingModel::hear(const Moment& moment, std::vector<Heard>& heard, HearScratch& scratch) const
{
    heard.clear();
    scratch.near.clear();
    index_.containing(moment.ears.at, scratch.near);
    if (moment.nearest != moment.ears.at) {
        // What is met from elsewhere is in reach from there.
        index_.containing(moment.nearest, scratch.near);
        std::sort(scratch.near.begin(), scratch.near.end());
        scratch.near.erase(std::unique(scratch.near.begin(), scratch.near.end()), scratch.near.end());
    }
    prepare(moment, scratch);
    for (const std::uint32_t index : scratch.near) {
        if (world_->simple(index)) {
            heard.push_back(hearFrom(moment, index, world_->simpleStart(index), scratch));
        }
    }
    const std::vector<Start> none;
    for (const Start& start : moment.state != nullptr ? moment.state->starts : none) {
        const bool shot = start.at.has_value();
        if (shot || std::binary_search(scratch.near.begin(), scratch.near.end(), start.emitter)) {
            heard.push_back(hearFrom(moment, start.emitter, start, scratch));
        }
    }
    letThrough(moment, heard, scratch);
    addUp(heard, roomField_, scratch.roomsHeard);
}

Heard HearingModel::loudestOf(const Moment& moment, std::uint32_t index, HearScratch& scratch) const
{
    // All of time at once: as if it were started.
    if (world_->simple(index) || (moment.when.always() && moment.state == nullptr && !givesShots(sources_[index].kind))) {
        return hearFrom(moment, index, world_->simpleStart(index), scratch);
    }
    std::optional<Heard> loudest;
    if (moment.state != nullptr) {
        for (const Start& start : moment.state->starts) {
            if (start.emitter != index) {
                continue;
            }
            Heard heard = hearFrom(moment, index, start, scratch);
            if (!loudest || heard.level_db > loudest->level_db) {
                loudest = heard;
            }
        }
    }
    if (loudest) {
        return *loudest;
    }
    Start never = world_->simpleStart(index);
    never.began_s = boundless;
    Heard silent = hearFrom(moment, index, never, scratch);
    if (silent.audible) {
        silent.terms.add(TermKind::timing, silence_db);
        silent.level_db = silence_db;
        silent.audible = false;
    }
    return silent;
}

Heard HearingModel::hearOne(const Moment& moment, std::uint32_t index) const
{
    HearScratch scratch;
    hear(moment, scratch.inReach, scratch);
    const Heard* loudest = loudestIn(scratch.inReach, index);
    return loudest != nullptr ? *loudest : loudestOf(moment, index, scratch);
}

std::vector<Heard> HearingModel::hearAll(const Moment& moment) const
{
    HearScratch scratch;
    std::vector<Heard> heard;
    hearAll(moment, heard, scratch);
    return heard;
}

void HearingModel::hearAll(const Moment& moment, std::vector<Heard>& heard, HearScratch& scratch) const
{
    hear(moment, scratch.inReach, scratch);
    addOthers(moment, scratch.inReach, heard, scratch);
}

void HearingModel::hearAll(const Moment& moment, std::span<const Heard> known, std::vector<Heard>& heard,
                           HearScratch& scratch) const
{
    prepare(moment, scratch);
    addOthers(moment, known, heard, scratch);
    addUp(heard, roomField_, scratch.roomsHeard);
}

/// Of each emitter its loudest start, those out of reach with the others.
void HearingModel::addOthers(const Moment& moment, std::span<const Heard> known, std::vector<Heard>& heard,
                             HearScratch& scratch) const
{
    std::vector<const Heard*> loudest(sources_.size(), nullptr);
    for (const Heard& one : known) {
        if (one.index < loudest.size() && (loudest[one.index] == nullptr || louder(one, *loudest[one.index]))) {
            loudest[one.index] = &one;
        }
    }
    heard.clear();
    heard.reserve(sources_.size());
    for (std::uint32_t index = 0; index < sources_.size(); ++index) {
        heard.push_back(loudest[index] != nullptr ? *loudest[index] : loudestOf(moment, index, scratch));
    }
}

Bands HearingModel::colouring_db(const Heard& heard) const
{
    Bands bands{};
    const double walls_db = heard.screened.rays > 0 ? heard.screened.level_db() : 0.0;
    for (std::size_t band = 0; band < bands.size(); ++band) {
        bands[band] = -heard.air_m * air_db_m_[band] - heard.worldShare * (heard.screened.loss_db[band] + walls_db);
    }
    // What no filter could do is not promised either.
    bands = BandFilter::eased(bands);
    std::transform(bands.begin(), bands.end(), bands.begin(), std::negate<>());
    return bands;
}

Bands HearingModel::bands_db(const Heard& heard) const
{
    Bands bands{};
    const Bands colouring = colouring_db(heard);
    for (std::size_t band = 0; band < bands.size(); ++band) {
        const double f = octaveBands_hz[band];
        bands[band] = heard.level_db - colouring[band];
        if (heard.values.lowPass_hz < openLowPass_hz) {
            bands[band] += levelOf(butterworthLowPass(f, heard.values.lowPass_hz));
        }
        if (heard.values.highPass_hz > openHighPass_hz) {
            bands[band] += levelOf(butterworthHighPass(f, heard.values.highPass_hz));
        }
    }
    return bands;
}

} // namespace stone
