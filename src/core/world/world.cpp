// SPDX-License-Identifier: MPL-2.0
#include "world/world.h"

#include "project/edit.h"
#include "world/level_edges.h"
#include "world/placed_solid.h"
#include "world/reach.h"
#include "world/walk_pose.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

bool startsWithTheLevel(const Starting& s)
{
    return s.starts.size() == 1 && s.starts.front().cause == Cause::level && s.stops.empty() && s.conditions.empty();
}

Rounds roundsOf(const Emitter& emitter)
{
    return givesShots(emitter.kind) ? Rounds::once : emitter.starting.rounds;
}

/// Whether a sound has to be played otherwise than it says.
bool differs(const Sound& sound, Rounds rounds)
{
    return (rounds == Rounds::endless && !sound.loop) || (rounds == Rounds::once && sound.loop);
}

/// The second sound that an emitter can play, and how.
std::pair<SoundId, Rounds> secondOf(const Emitter& emitter)
{
    if (emitter.kind == EmitterKind::sprinkle) {
        return {emitter.sprinkling.answer, Rounds::once};
    }
    if (emitter.kind == EmitterKind::roamer) {
        return {emitter.roaming.arriving, emitter.roaming.arrivingFor_s > 0.0 ? Rounds::asTheSound : Rounds::once};
    }
    return {};
}

/// Calls visit(sound id, rounds) for everything that an emitter can play.
template <class Visit> void forEachSound(const Emitter& emitter, Visit&& visit)
{
    visit(emitter.sound, roundsOf(emitter));
    const auto [second, rounds] = secondOf(emitter);
    visit(second, rounds);
    if (emitter.kind == EmitterKind::steps) {
        for (const SurfaceSound& surface : emitter.stepping.surfaces) {
            visit(surface.sound, Rounds::once);
        }
    }
    if (emitter.kind == EmitterKind::pulse) {
        const Pulsing& how = emitter.pulsing;
        for (const SoundId& id : {how.dropSound, how.wallSound, how.waterSound, how.kerbSound, how.stepSound}) {
            visit(id, Rounds::once);
        }
    }
}

} // namespace

std::vector<Playable> playablesOf(const Project& project, const Level& level)
{
    std::vector<Playable> playables;
    for (const auto& sound : project.sounds) {
        playables.push_back({.sound = sound});
    }
    for (const auto& emitter : level.emitters) {
        forEachSound(*emitter, [&](const SoundId& id, Rounds rounds) {
            const auto index = project.sounds.indexOf(id);
            if (!index) {
                return;
            }
            const Sound* sound = project.sounds[*index].get();
            if (!differs(*sound, rounds)) {
                playables[*index].used = true;
                return;
            }
            const bool known = std::any_of(playables.begin() + static_cast<std::ptrdiff_t>(project.sounds.size()),
                                           playables.end(), [&](const Playable& other) { return other.sound->id == id; });
            if (!known) {
                Sound other = *sound;
                other.loop = !other.loop;
                playables.push_back({std::make_shared<const Sound>(std::move(other)), true});
            }
        });
    }
    return playables;
}

World::World(const std::shared_ptr<const Project>& project, const LevelId& level, const std::shared_ptr<const Ground>& ground,
             LengthOf length, Ways ways)
    : World(plant(project, level, ground, ways), ground, std::move(length), ways)
{
}

World::World(const std::shared_ptr<const Planted>& planted, std::shared_ptr<const Ground> ground, LengthOf length, Ways ways)
    : World(planted, std::move(ground), std::move(length), ways, playablesOf(*planted->project, planted->level()))
{
}

World::World(std::shared_ptr<const Planted> planted, std::shared_ptr<const Ground> ground, LengthOf length, Ways ways,
             std::vector<Playable> playables)
    : planted_(std::move(planted)), project_(planted_->project), level_(&planted_->level()), ground_(std::move(ground)),
      length_(std::move(length)), playables_(std::move(playables)), ways_(ways)
{
    std::vector<Solid> solids;
    for (const auto& zone : level_->zones) {
        solids.push_back(placedSolid(zone->shape, zone->at, zone->heading_deg, ground_.get()));
    }
    zones_ = ZoneMap(*level_, std::move(solids));
    rooms_ = RoomMap(*level_);
    nesting_ = NestingDepths(rooms_, zones_);
    for (std::uint32_t i = 0; i < level_->openings.size(); ++i) {
        if (!level_->openings[i]->opensOn.empty() || !level_->openings[i]->closesOn.empty()) {
            doors_.push_back(i);
        }
    }
    livelyInZone_.resize(zones_.size());
    std::vector<Sphere> livelySpheres;
    const auto& emitters = level_->emitters;
    for (std::uint32_t i = 0; i < emitters.size(); ++i) {
        const Emitter& emitter = *emitters[i];
        own_.push_back(playable(emitter.sound, roundsOf(emitter)));
        const bool shots = givesShots(emitter.kind);
        ofItself_.push_back(startsWithTheLevel(emitter.starting));
        simple_.push_back(!shots && ofItself_.back());
        if (emitter.kind == EmitterKind::area) {
            solids_.emplace(i, placedSolid(emitter.area.shape, emitter.at, emitter.heading_deg, ground_.get()));
        }
        if (emitter.kind == EmitterKind::sprinkle) {
            scatterSolids_.emplace(i, placedSolid(emitter.sprinkling.shape, emitter.at, emitter.heading_deg, ground_.get()));
        }
        if (emitter.kind == EmitterKind::roamer) {
            routes_.try_emplace(i, emitter.roaming, project_->seed, emitter.id.text, ground_.get(), ways);
        }
        const bool arrives = emitter.kind == EmitterKind::roamer && second(i);
        if (emitter.kind == EmitterKind::sprinkle || arrives) {
            const bool inZone = emitter.kind == EmitterKind::sprinkle && zones_.indexOf(emitter.zone);
            const bool still =
                arrives || (emitter.sprinkling.where == Sprinkling::Where::shape && emitter.riding.on == Riding::On::nothing);
            if (inZone) {
                livelyInZone_[*zones_.indexOf(emitter.zone)].push_back(i);
            } else if (still) {
                Sphere range = rangeOf(i);
                range.radius_m += audibleWithin_m(*project_, emitter);
                livelySpheres.push_back(range);
                livelySomewhere_.push_back(i);
            } else {
                livelyEverywhere_.push_back(i);
            }
        }
        if (emitter.kind == EmitterKind::steps) {
            steps_.push_back(i);
        }
        if (emitter.kind == EmitterKind::pulse) {
            pulses_.push_back(i);
        }
    }
    livelyIndex_ = SphereIndex(livelySpheres);
    if (!pulses_.empty()) {
        edges_ = edgesOf(*level_, ground_.get(), ways);
    }
    for (std::uint32_t i = 0; i < emitters.size(); ++i) {
        const Emitter& emitter = *emitters[i];
        simpleStarts_.push_back(startOf(i, Start::Part::own, own_[i].value_or(Start::nothing), 0, emitter.startAfter_s, {}));
        if (!ofItself_[i] && emitter.kind != EmitterKind::steps) {
            hook(i, emitter.starting.starts, Role::start);
            hook(i, emitter.starting.stops, Role::stop);
            hook(i, emitter.starting.rearms, Role::rearm);
        }
    }
    watchesGround_ = !steps_.empty() || hooks_.contains("jump") || hooks_.contains("land") || hooks_.contains("fall");
}

std::optional<std::uint32_t> World::playable(const SoundId& id, Rounds rounds) const
{
    const auto found = project_->sounds.indexOf(id);
    if (!found) {
        return {};
    }
    if (!differs(*playables_[*found].sound, rounds)) {
        return static_cast<std::uint32_t>(*found);
    }
    const auto other = std::find_if(playables_.begin() + static_cast<std::ptrdiff_t>(project_->sounds.size()), playables_.end(),
                                    [&](const Playable& p) { return p.sound->id == id; });
    return static_cast<std::uint32_t>(other - playables_.begin());
}

std::optional<std::uint32_t> World::second(std::uint32_t emitter) const
{
    const auto [id, rounds] = secondOf(*level_->emitters[emitter]);
    return playable(id, rounds);
}

std::optional<std::uint32_t> World::playableFor(std::uint32_t emitter, const Sound& sound) const
{
    std::optional<std::uint32_t> found;
    forEachSound(*level_->emitters[emitter], [&](const SoundId& id, Rounds rounds) {
        if (id == sound.id && !found) {
            found = playable(id, rounds);
        }
    });
    return found;
}

WorldState World::carriedOver(const World& before, const WorldState& state) const
{
    WorldState now = state;
    const auto indexNow = [&](std::uint32_t emitter) { return indexOf(before.level_->emitters[emitter]->id); };
    now.values.clear();
    for (const auto& value : project_->gameValues) {
        WorldState::Ramp ramp{value->rest, value->rest, 0.0, 0.0};
        for (std::size_t i = 0; i < before.project_->gameValues.size() && i < state.values.size(); ++i) {
            if (before.project_->gameValues[i]->id == value->id) {
                ramp = state.values[i];
            }
        }
        now.values.push_back(ramp);
    }
    const auto carryDoors = [&](auto& to, const auto& from) {
        to.clear();
        for (const auto& [door, ramp] : from) {
            if (const auto index = level_->openings.indexOf(before.level_->openings[door]->id)) {
                to.emplace(static_cast<std::uint32_t>(*index), ramp);
            }
        }
    };
    carryDoors(now.doors, state.doors);
    carryDoors(now.toldDoors, state.toldDoors);
    now.gazing.clear();
    for (const auto& gaze : project_->gazes) {
        bool on = false;
        for (std::size_t i = 0; i < before.project_->gazes.size() && i < state.gazing.size(); ++i) {
            on = on || (before.project_->gazes[i]->id == gaze->id && state.gazing[i]);
        }
        now.gazing.push_back(on);
    }
    now.starts.clear();
    for (Start start : state.starts) {
        const auto index = indexNow(start.emitter);
        const auto playing = index ? playableFor(*index, *before.playables_[start.playable].sound) : std::nullopt;
        if (playing) {
            start.emitter = *index;
            start.playable = *playing;
            now.starts.push_back(start);
        }
    }
    const auto renumber = [&](auto& to, const auto& from) {
        to.clear();
        for (const auto& [emitter, what] : from) {
            if (const auto index = indexNow(emitter)) {
                to.emplace(*index, what);
            }
        }
    };
    renumber(now.sprinkles, state.sprinkles);
    renumber(now.pulses, state.pulses);
    renumber(now.ruled, state.ruled);
    now.near.clear();
    for (const auto& [watched, near] : state.near) {
        if (const auto index = indexNow(watched.first)) {
            now.near.emplace(std::pair(*index, watched.second), near);
        }
    }
    // A sprinkle's pickers count files that may be others by now.
    for (auto& [emitter, sprinkle] : now.sprinkles) {
        sprinkle.files.reset();
        sprinkle.answers.reset();
    }
    for (auto& [emitter, pulse] : now.pulses) {
        pulse.files.clear();
    }
    for (auto& [emitter, ruled] : now.ruled) {
        ruled.files.reset();
    }
    now.stepFiles.clear();
    now.zones.clear();
    const auto rezoned = [&](const std::vector<Presence>& from, std::vector<Presence>& to) {
        for (const Presence& presence : from) {
            if (const auto zone = zones_.indexOf(before.zones_.zone(presence.zone).id)) {
                to.push_back({*zone, presence.depth_m, presence.way_m});
            }
        }
    };
    rezoned(state.zones.in, now.zones.in);
    rezoned(state.zones.counted, now.zones.counted);
    return now;
}

double World::openShare(const Moment& moment, std::uint32_t opening) const
{
    const Opening& what = *level_->openings[opening];
    if (moment.state != nullptr) {
        if (const auto told = moment.state->toldDoors.find(opening); told != moment.state->toldDoors.end()) {
            return told->second.at(moment.when.to_s);
        }
    }
    if (!what.follows.empty()) {
        return std::clamp(valueAt(moment, what.follows), 0.0, 1.0);
    }
    if (moment.state != nullptr) {
        if (const auto moved = moment.state->doors.find(opening); moved != moment.state->doors.end()) {
            return moved->second.at(moment.when.to_s);
        }
    }
    return what.open;
}

bool World::gazes(std::size_t gaze, const Moment& moment, const ZonesAt& zones) const
{
    const Gaze& what = *project_->gazes[gaze];
    switch (what.when) {
    case Gaze::When::always: return what.on;
    case Gaze::When::signal:
        return what.on && moment.state != nullptr && gaze < moment.state->gazing.size() && moment.state->gazing[gaze];
    case Gaze::When::zone: {
        const auto zone = zones_.indexOf(what.zone);
        return what.on && zone && zones.depth(*zone) > 0.0;
    }
    }
    return false;
}

std::optional<std::uint32_t> World::indexOf(const EmitterId& id) const
{
    const auto found = level_->emitters.indexOf(id);
    return found ? std::optional(static_cast<std::uint32_t>(*found)) : std::nullopt;
}

const Solid* World::solidOf(std::uint32_t emitter) const
{
    const auto found = solids_.find(emitter);
    return found != solids_.end() ? &found->second : nullptr;
}

std::string World::courseIdOf(const Start& start) const
{
    const Sound& sound = *playables_[start.playable].sound;
    std::string id = stone::courseIdOf(sound, *level_->emitters[start.emitter]);
    if (start.part != Start::Part::own) {
        static constexpr const char* parts[] = {"", "#answer", "#arrival", "#burst"};
        id += parts[static_cast<std::size_t>(start.part)];
    }
    return start.number == 0 ? id : id + '#' + std::to_string(start.number);
}

double World::lengthOf_s(const Start& start) const
{
    if (!length_) {
        return 0.0;
    }
    const double pitch_st = level_->emitters[start.emitter]->pitch_st + start.pitch_st;
    return length_(start.playable, courseIdOf(start), start.file) / std::pow(2.0, pitch_st / 12.0);
}

Start World::startOf(std::uint32_t emitter, Start::Part part, std::uint32_t playable, std::uint64_t number, double time_s,
                     std::optional<std::size_t> file) const
{
    Start start{.emitter = emitter,
                .part = part,
                .number = number,
                .playable = playable,
                .began_s = time_s,
                .pausedAt_s = {},
                .file = file,
                .at = {}};
    if (playable == Start::nothing) {
        return start;
    }
    const CopyChance chance = chanceOf(*project_, *playables_[playable].sound, *level_->emitters[emitter], number, file);
    start.level_db = chance.level_db;
    start.pitch_st = chance.pitch_st;
    const double length_s = lengthOf_s(start);
    start.ends_s = length_s > 0.0 ? time_s + length_s : boundless;
    return start;
}

double World::valueAt(const Moment& moment, const GameValueId& id) const
{
    const auto index = project_->gameValues.indexOf(id);
    if (!index) {
        return 0.0;
    }
    const bool known = moment.state != nullptr && *index < moment.state->values.size();
    return known ? moment.state->values[*index].at(moment.state->time_s) : project_->gameValues[*index]->rest;
}

std::optional<double> World::setOff_s(std::uint32_t roamer, const Moment& moment) const
{
    if (simple_[roamer]) {
        return simpleStarts_[roamer].began_s;
    }
    std::optional<double> last_s;
    if (moment.state != nullptr) {
        for (const Start& start : moment.state->starts) {
            if (start.emitter == roamer && start.part == Start::Part::own && start.began_s <= moment.state->time_s) {
                last_s = start.pausedAt_s ? start.began_s + moment.state->time_s - *start.pausedAt_s : start.began_s;
            }
        }
    }
    return last_s;
}

Route::Place World::roamerAt(std::uint32_t roamer, const Moment& moment) const
{
    const auto began_s = setOff_s(roamer, moment);
    // All of time at once: as it is when the level starts.
    const double now_s = moment.when.always() ? 0.0 : moment.when.to_s;
    return routeOf(roamer).at(began_s ? std::max(now_s - *began_s, 0.0) : 0.0);
}

Carriage World::carriageOf(const Riding& riding, const Moment& moment) const
{
    Carriage carriage;
    switch (riding.on) {
    case Riding::On::nothing: return carriage;
    case Riding::On::character: carriage = {moment.feet.at, moment.feet.heading_deg, true}; break;
    case Riding::On::roamer:
        if (const auto roamer = indexOf(riding.roamer); roamer && routes_.contains(*roamer)) {
            const Route::Place place = roamerAt(*roamer, moment);
            carriage = {place.at, place.heading_deg, true};
        }
        break;
    case Riding::On::node:
        if (const Mesh::Node* node = ground_ != nullptr ? ground_->mesh().node(riding.node) : nullptr) {
            carriage = {node->at, 0.0, true};
        }
        break;
    case Riding::On::game:
        if (moment.state != nullptr) {
            if (const auto told = moment.state->things.find(riding.thing); told != moment.state->things.end()) {
                const Pose pose = told->second.at(std::min(moment.when.to_s, moment.state->time_s));
                carriage = {pose.at, pose.heading_deg, true};
            }
        }
        break;
    }
    if (!riding.turnsAlong) {
        carriage.heading_deg = 0.0;
    }
    return carriage;
}

Sphere World::rangeOf(std::uint32_t emitter) const
{
    const Emitter& what = *level_->emitters[emitter];
    const Riding& riding = what.riding;
    Sphere range{what.at, 0.0};
    if (what.kind == EmitterKind::area) {
        range = solids_.at(emitter).bounds();
    } else if (what.kind == EmitterKind::sprinkle) {
        range = scatterSolids_.at(emitter).bounds();
    } else if (what.kind == EmitterKind::bed) {
        const auto zone = zones_.indexOf(what.zone);
        return zone && zones_.zone(*zone).riding.on == Riding::On::nothing ? zones_.solid(*zone).bounds()
                                                                           : Sphere{Vec3{0.0}, boundless};
    } else if (isOfCharacter(what.kind)) {
        return {Vec3{0.0}, boundless};
    }
    const auto roundStops = [](const std::vector<Vec3>& points) {
        Vec3 low{boundless};
        Vec3 high{-boundless};
        for (const Vec3& p : points) {
            low = glm::min(low, p);
            high = glm::max(high, p);
        }
        return points.empty() ? Sphere{} : Sphere{(low + high) / 2.0, glm::length(high - low) / 2.0};
    };
    const auto pathOf = [&](std::uint32_t roamer) {
        std::vector<Vec3> points = routes_.at(roamer).line();
        for (const Stop& stop : level_->emitters[roamer]->roaming.stops) {
            points.push_back(stop.at);
        }
        return roundStops(points);
    };
    if (what.kind == EmitterKind::roamer) {
        // Ways between any two stops lie near the line of them all, but for detours: those are drawn wider.
        Sphere path = pathOf(emitter);
        path.radius_m *= what.roaming.aroundWalls ? 2.0 : 1.0;
        return path;
    }
    switch (riding.on) {
    case Riding::On::nothing: return range;
    case Riding::On::character:
    case Riding::On::game: return {Vec3{0.0}, boundless};
    case Riding::On::roamer:
        if (const auto roamer = indexOf(riding.roamer); roamer && routes_.contains(*roamer)) {
            Sphere path = pathOf(*roamer);
            path.radius_m = 2.0 * path.radius_m + glm::length(range.centre) + range.radius_m;
            return path;
        }
        return range;
    case Riding::On::node: {
        const Carriage carriage = carriageOf(riding, Moment{});
        return {carriage.placed(range.centre), range.radius_m};
    }
    }
    return range;
}

void World::zonesAt(const Moment& moment, ZonesAt& zones) const
{
    zones_.at(
        moment.visitor, [&](const Riding& riding) { return carriageOf(riding, moment); }, zones,
        [&](std::uint32_t zone) { return nesting_.depth_m(rooms_, zones_, zone, moment.visitor); });
}

Moment World::momentOf(const WorldState& state, const Ears& ears, const TimeSpan& when) const
{
    return momentOf(state.stance, ears, when, &state);
}

Moment World::momentOf(const Stance& stance, const Ears& ears, const TimeSpan& when, const WorldState* state) const
{
    const Counting& counting = project_->counting;
    Moment moment{ears, when, stance.feet, stance.of(counting.entering).at, state};
    if (counting.nearest != Who::ears) {
        moment.nearest = stance.of(counting.nearest).at;
    }
    if (counting.gaze != Who::ears) {
        moment.gaze = stance.of(counting.gaze);
    }
    return moment;
}

std::string World::surfaceName(const std::optional<std::uint32_t>& material) const
{
    const bool known = material && ground_ != nullptr && *material < ground_->mesh().materials.size();
    return known ? ground_->mesh().materials[*material] : std::string{};
}

std::vector<Happening> happeningsOf(const Walk& walk, double from_s, double to_s)
{
    std::vector<Happening> found;
    for (const WalkEvent& event : walk.events) {
        if (event.t_s > to_s || (event.t_s <= from_s && !(from_s <= 0.0 && event.t_s <= 0.0))) {
            continue;
        }
        switch (event.kind) {
        case WalkEvent::Kind::signal: found.push_back({Cause::signal, event.signal}); break;
        case WalkEvent::Kind::value: found.push_back({Cause::signal, {}, std::pair(event.value, event.number)}); break;
        case WalkEvent::Kind::interact: found.push_back({Cause::interact, {}}); break;
        case WalkEvent::Kind::reset: found.push_back({Cause::reset, {}}); break;
        case WalkEvent::Kind::burst: found.push_back({.burst = event.burst}); break;
        }
    }
    return found;
}

} // namespace stone
