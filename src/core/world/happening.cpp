// SPDX-License-Identifier: MPL-2.0
#include "world/world.h"

#include "acoustics/curve.h"
#include "geometry/leap.h"
#include "project/chance.h"
#include "world/picking.h"
#include "world/walk_pose.h"

#include <algorithm>
#include <cmath>
#include <utility>

/// How a level goes on from one moment to the next: what the World does to a state.
namespace stone
{

namespace
{

constexpr double highestStep_m = 0.45;
/// Feet so close to the floor stand on it; so far above they are in the air.
constexpr double standing_m = 0.12;
constexpr double flying_m = 0.25;
/// Going up at least so fast while leaving the ground is a jump.
constexpr double jump_m_s = 0.5;
/// Slower than this nobody walks.
/// Over this time the pace is taken.
constexpr double pace_s = 0.1;
constexpr double walking_m_s = 0.2;
/// So many copies of an emitter go on at once; further starts are refused. Far beyond what anybody wants: limits are the
/// document's, see Limit.
constexpr std::size_t mostCopies = 256;
/// How fast the old gives way to the new when a sound starts anew.
constexpr double restartFade_s = 0.03;
constexpr double arrivalFade_s = 0.2;
/// What lies further above or below is on another storey.
constexpr double storey_m = 3.0;
/// A game tells of a door on its way now and then: from one time to the next it swings.
constexpr double toldDoor_s = 0.05;
/// Who came near is away again from this many times the distance on.
constexpr double leavesAt = 1.05;

const char* keyOf(Cause cause)
{
    static constexpr const char* keys[] = {"level", "enter ", "leave ", "signal ", "interact", "jump",
                                           "land",  "fall",   "reset",  "near ",   "far "};
    return keys[static_cast<std::size_t>(cause)];
}

std::string keyOf(const Trigger& trigger)
{
    std::string key = keyOf(trigger.cause);
    if (trigger.cause == Cause::enter || trigger.cause == Cause::leave) {
        key += trigger.zone.text;
    } else if (trigger.cause == Cause::signal) {
        key += trigger.signal.text;
    }
    return key;
}

std::string distanceKey(std::uint32_t emitter, double within_m)
{
    return std::to_string(emitter) + ' ' + std::to_string(within_m);
}

bool sounds(const Start& start, std::uint32_t emitter, double time_s)
{
    return start.emitter == emitter && start.part == Start::Part::own && start.stopped_s == boundless &&
           (start.pausedAt_s || start.ends_s > time_s);
}

} // namespace

void World::hook(std::uint32_t emitter, const std::vector<Trigger>& triggers, Role role)
{
    for (const Trigger& trigger : triggers) {
        std::string key = keyOf(trigger);
        if (trigger.cause == Cause::near || trigger.cause == Cause::far) {
            key += distanceKey(emitter, trigger.within_m);
            const std::pair watched{emitter, trigger.within_m};
            if (std::find(nearness_.begin(), nearness_.end(), watched) == nearness_.end()) {
                nearness_.push_back(watched);
            }
        }
        hooks_[key].push_back({emitter, role, trigger.within_m});
    }
}

/// Hands, and eyes, reach up and down: the distance in the plan counts, on the same storey.
bool World::isWithin(const WorldState& state, std::uint32_t emitter, double within_m, double time_s) const
{
    Moment here;
    here.feet = state.feet;
    here.when = TimeSpan::at(time_s);
    here.state = &state;
    const Emitter& what = *level_->emitters[emitter];
    const Vec3 at =
        what.kind == EmitterKind::roamer ? roamerAt(emitter, here).at : carriageOf(what.riding, here).placed(what.at);
    const Vec3 way = at - state.feet.at;
    return std::hypot(way.x, way.y) <= within_m && std::abs(way.z) <= storey_m;
}

void World::comeNear(WorldState& state, double time_s) const
{
    for (const auto& [emitter, within_m] : nearness_) {
        bool& near = state.near[{emitter, within_m}];
        // Whoever stands at the border does not come and go with each sway.
        const bool now = isWithin(state, emitter, near ? within_m * leavesAt : within_m, time_s);
        if (now != std::exchange(near, now)) {
            cause(state, keyOf(now ? Cause::near : Cause::far) + distanceKey(emitter, within_m), time_s);
        }
    }
}

bool World::conditionsHold(const WorldState& state, const Starting& starting, double time_s) const
{
    return std::all_of(starting.conditions.begin(), starting.conditions.end(), [&](const Condition& condition) {
        const auto& values = project_->gameValues;
        for (std::size_t i = 0; i < values.size(); ++i) {
            if (values[i]->id == condition.value) {
                const double now = state.values[i].at(time_s);
                return condition.comparison == Comparison::atLeast ? now >= condition.number : now <= condition.number;
            }
        }
        return false;
    });
}

void World::cause(WorldState& state, const std::string& key, double time_s) const
{
    const auto found = hooks_.find(key);
    if (found == hooks_.end()) {
        return;
    }
    // What is stopped and started by the same thing starts: stops come first.
    for (const Role role : {Role::rearm, Role::stop, Role::start}) {
        for (const Hook& hook : found->second) {
            if (hook.role != role) {
                continue;
            }
            const Emitter& emitter = *level_->emitters[hook.emitter];
            if (key == keyOf(Cause::interact) && !isWithin(state, hook.emitter, hook.within_m, time_s)) {
                continue;
            }
            switch (role) {
            case Role::start: startOrSecond(state, hook.emitter, time_s); break;
            case Role::stop: end(state, hook.emitter, time_s, emitter.starting.fadeOut_s); break;
            case Role::rearm: state.ruled[hook.emitter].spent = false; break;
            }
        }
    }
}

void World::end(WorldState& state, std::uint32_t emitter, double time_s, double fade_s)
{
    for (Start& start : state.starts) {
        if (sounds(start, emitter, time_s)) {
            start.stopped_s = time_s;
            start.fade_s = start.pausedAt_s || start.began_s > time_s ? 0.0 : fade_s;
        }
    }
    if (const auto sprinkle = state.sprinkles.find(emitter); sprinkle != state.sprinkles.end()) {
        sprinkle->second.on = false;
    }
    if (const auto pulse = state.pulses.find(emitter); pulse != state.pulses.end()) {
        pulse->second.on = false;
    }
}

void World::startOrSecond(WorldState& state, std::uint32_t emitter, double time_s) const
{
    const Starting& starting = level_->emitters[emitter]->starting;
    const double after_s = level_->emitters[emitter]->startAfter_s;
    WorldState::Ruled& ruled = state.ruled[emitter];
    const bool heldOff = time_s - ruled.last_s < starting.holdOff_s;
    const auto playing = [&](const Start& start) { return sounds(start, emitter, time_s); };
    const auto copies = std::count_if(state.starts.begin(), state.starts.end(), playing);
    const auto sprinkle = state.sprinkles.find(emitter);
    const auto pulse = state.pulses.find(emitter);
    const bool on = copies > 0 || (sprinkle != state.sprinkles.end() && sprinkle->second.on) ||
                    (pulse != state.pulses.end() && pulse->second.on);
    if (!on) {
        if (!heldOff && !ruled.spent && conditionsHold(state, starting, time_s)) {
            begin(state, emitter, time_s, after_s);
        }
        return;
    }
    switch (starting.second) {
    case SecondStart::ignore: break;
    case SecondStart::stop: end(state, emitter, time_s, starting.fadeOut_s); break;
    case SecondStart::pauseAndResume:
        for (Start& start : state.starts) {
            if (!playing(start)) {
                continue;
            }
            if (start.pausedAt_s) {
                const double waited_s = time_s - *start.pausedAt_s;
                start.began_s += waited_s;
                start.ends_s += waited_s;
                start.pausedAt_s.reset();
            } else {
                start.pausedAt_s = time_s;
            }
        }
        break;
    case SecondStart::restart:
    case SecondStart::another:
        if (heldOff || ruled.spent || !conditionsHold(state, starting, time_s)) {
            break;
        }
        if (starting.second == SecondStart::restart) {
            end(state, emitter, time_s, restartFade_s);
        } else if (static_cast<std::size_t>(copies) >= mostCopies) {
            // This one is refused, and those that sound play on. It had its number and its chance, so that what comes after is
            // the same whether it sounded or not.
            ++ruled.count;
            if (ruled.files) {
                ruled.files->next();
            }
            break;
        }
        begin(state, emitter, time_s, after_s);
        break;
    }
}

void World::byHand(WorldState& state, const Happening::Hand& hand, double time_s) const
{
    const auto index = indexOf(hand.emitter);
    if (!index || simple(*index) || level_->emitters[*index]->kind == EmitterKind::steps) {
        return;
    }
    end(state, *index, time_s, hand.starts ? restartFade_s : level_->emitters[*index]->starting.fadeOut_s);
    if (hand.starts) {
        begin(state, *index, time_s, 0.0);
    }
}

void World::begin(WorldState& state, std::uint32_t emitter, double time_s, double after_s) const
{
    const Emitter& what = *level_->emitters[emitter];
    WorldState::Ruled& ruled = state.ruled[emitter];
    ruled.last_s = time_s;
    ruled.spent = what.starting.once;
    const std::uint64_t number = ruled.count++;
    if (what.kind == EmitterKind::sprinkle) {
        SprinkleState& sprinkle = state.sprinkles[emitter];
        sprinkle.on = true;
        sprinkle.origin_s = time_s + after_s;
        const SprinkleChance chance{project_->seed, what.id.text};
        sprinkle.next_s = sprinkle.origin_s + sprinkleInterval_s(what.sprinkling, chance, sprinkle.next);
        return;
    }
    if (what.kind == EmitterKind::pulse) {
        PulseState& pulse = state.pulses[emitter];
        pulse.on = true;
        pulse.origin_s = time_s + after_s;
        return;
    }
    if (!own_[emitter]) {
        return;
    }
    const Sound& sound = *playables_[*own_[emitter]].sound;
    std::optional<std::size_t> file;
    if (sound.make == Make::one && sound.files.size() > 1) {
        if (!ruled.files) {
            ruled.files.emplace(project_->seed, stone::courseIdOf(sound, what), "file", sound.sequence.order,
                                sound.files.size());
        }
        file = ruled.files->next();
    }
    Start start = startOf(emitter, Start::Part::own, *own_[emitter], number, time_s + after_s, file);
    if (what.kind == EmitterKind::roamer) {
        start.ends_s = std::min(start.ends_s, start.began_s + routeOf(emitter).ends_s());
    }
    state.starts.push_back(start);
}

double World::floorBelow_m(const Vec3& feet, std::optional<std::uint32_t>& surface) const
{
    surface.reset();
    if (ground_ != nullptr && !ground_->mesh().triangles.empty()) {
        const auto floor = ground_->floorBelow(feet + Vec3{0.0, 0.0, highestStep_m}, 100.0);
        if (!floor) {
            return -boundless;
        }
        surface = floor->material;
        return floor->height_m;
    }
    // Without geometry the storeys' floors carry everybody.
    double floor_m = -boundless;
    for (const Storey& storey : level_->storeys) {
        if (storey.floor_m <= feet.z + highestStep_m) {
            floor_m = std::max(floor_m, storey.floor_m);
        }
    }
    return std::isfinite(floor_m) ? floor_m : feet.z;
}

void World::move(WorldState& state, const Input& input, double from_s) const
{
    const double above_m = input.feet.at.z - floorBelow_m(input.feet.at, state.surface);
    const double takes_s = input.to_s - from_s;
    const double up_m_s = takes_s > 0.0 && !input.jumped ? (input.feet.at.z - state.feet.at.z) / takes_s : 0.0;
    if (!state.airborne && above_m > flying_m) {
        state.airborne = true;
        if (!input.jumped && !state.actsTold) {
            cause(state, keyOf(up_m_s > jump_m_s ? Cause::jump : Cause::fall), input.to_s);
        }
    } else if (state.airborne && above_m <= standing_m) {
        state.airborne = false;
        if (!input.jumped && !state.actsTold) {
            cause(state, keyOf(Cause::land), input.to_s);
        }
    }
    step(state, input, from_s);
}

void World::step(WorldState& state, const Input& input, double from_s) const
{
    const Vec3 way = input.feet.at - state.feet.at;
    const double way_m = input.jumped ? 0.0 : std::hypot(way.x, way.y);
    const double takes_s = input.to_s - from_s;
    if (takes_s > 0.0) {
        state.pace_m_s += (way_m / takes_s - state.pace_m_s) * (1.0 - std::exp(-takes_s / pace_s));
    }
    if (state.stepsTold) {
        return;
    }
    for (const std::uint32_t emitter : steps_) {
        const Emitter& what = *level_->emitters[emitter];
        const double stride_m = std::max(curveAt(what.stepping.stride, state.pace_m_s, CurveScale::even, 0.75), 0.05);
        if (state.pace_m_s < walking_m_s || state.airborne) {
            // The first step after standing comes after half a stride.
            state.sinceStep_m = stride_m / 2.0;
            continue;
        }
        const double before_m = state.sinceStep_m;
        state.sinceStep_m += way_m;
        if (state.sinceStep_m < stride_m) {
            continue;
        }
        const double share = std::clamp((stride_m - before_m) / way_m, 0.0, 1.0);
        state.sinceStep_m = std::fmod(state.sinceStep_m - stride_m, stride_m);
        tread(state, emitter, surfaceName(state.surface), state.feet.at + way * share, from_s + share * takes_s);
    }
}

/// One step of the character.
void World::tread(WorldState& state, std::uint32_t emitter, const std::string& surface, const Vec3& at, double time_s) const
{
    const Emitter& what = *level_->emitters[emitter];
    const auto& surfaces = what.stepping.surfaces;
    const auto own =
        std::find_if(surfaces.begin(), surfaces.end(), [&](const SurfaceSound& s) { return s.surface == surface; });
    const auto playing = own != surfaces.end() ? playable(own->sound, Rounds::once) : own_[emitter];
    if (!playing) {
        return;
    }
    const auto file = pickedFile(state.stepFiles, *playing, *playables_[*playing].sound, what.id.text, project_->seed, "step");
    Start start = startOf(emitter, Start::Part::own, *playing, state.steps++, time_s, file);
    start.level_db += own != surfaces.end() ? own->level_db : 0.0;
    start.at = at;
    state.starts.push_back(start);
}

/// What a game that is followed tells of itself.
void World::tell(WorldState& state, const Happening& happening, double from_s, double to_s) const
{
    if (happening.thing) {
        const auto& [name, pose] = *happening.thing;
        const auto known = state.things.find(name);
        const bool leaps = known == state.things.end() || glm::length(known->second.at(from_s).at - pose.at) > leap_m;
        state.things.insert_or_assign(name, ToldPose{leaps ? pose : known->second.at(from_s), pose, from_s, to_s - from_s});
    }
    if (happening.opening) {
        for (std::uint32_t i = 0; i < level_->openings.size(); ++i) {
            const Opening& door = *level_->openings[i];
            if (door.id == happening.opening->first) {
                Moment here;
                here.when = TimeSpan::at(from_s);
                here.state = &state;
                const double before = openShare(here, i);
                state.toldDoors[i] = {before, std::clamp(happening.opening->second, 0.0, 1.0), from_s, toldDoor_s};
            }
        }
    }
    if (happening.step) {
        state.stepsTold = true;
        for (const std::uint32_t emitter : steps_) {
            tread(state, emitter, happening.step->empty() ? surfaceName(state.surface) : *happening.step, state.feet.at,
                  from_s);
        }
    }
}

void World::setValue(WorldState& state, std::size_t value, double to, double time_s) const
{
    const GameValue& known = *project_->gameValues[value];
    WorldState::Ramp& ramp = state.values[value];
    ramp = {ramp.at(time_s), std::clamp(to, known.least, known.most), time_s, known.smoothing_s};
}

/// Values that wait for a signal go up, back, or there and back in turn.
void World::moveValues(WorldState& state, const SignalId& signal, double time_s) const
{
    const auto& values = project_->gameValues;
    for (std::size_t i = 0; i < values.size(); ++i) {
        const GameValue& value = *values[i];
        const bool rises = signal == value.mostOn;
        const bool rests = signal == value.restOn;
        if (rises || rests) {
            const bool isUp = state.values[i].to == value.most;
            setValue(state, i, rises && !(rests && isUp) ? value.most : value.rest, time_s);
        }
    }
}

/// Doors that wait for a signal swing from where they stand; one signal for both opens and shuts in turn.
void World::moveDoors(WorldState& state, const SignalId& signal, double time_s) const
{
    for (const std::uint32_t i : doors_) {
        const Opening& door = *level_->openings[i];
        if (signal != door.opensOn && signal != door.closesOn) {
            continue;
        }
        const auto known = state.doors.find(i);
        const WorldState::Ramp before =
            known != state.doors.end() ? known->second : WorldState::Ramp{door.open, door.open, 0.0, 0.0};
        const bool opens = signal == door.opensOn && (signal != door.closesOn || before.to < 0.5);
        state.doors[i] = {before.at(time_s), opens ? 1.0 : 0.0, time_s, door.swing_s};
    }
}

/// The character uses what is near.
void World::use(WorldState& state, double time_s) const
{
    cause(state, keyOf(Cause::interact), time_s);
}

/// What a signal does: values, doors, gazes, and whoever waits for it.
void World::send(WorldState& state, const SignalId& signal, double time_s) const
{
    moveValues(state, signal, time_s);
    moveDoors(state, signal, time_s);
    const auto& gazes = project_->gazes;
    for (std::size_t i = 0; i < gazes.size(); ++i) {
        if (signal == gazes[i]->from || signal == gazes[i]->until) {
            state.gazing[i] = signal == gazes[i]->from;
        }
    }
    cause(state, keyOf(Cause::signal) + signal.text, time_s);
}

void World::advance(WorldState& state, const Input& input) const
{
    const bool first = state.time_s < 0.0;
    const double from_s = first ? 0.0 : state.time_s;
    const double to_s = std::max(input.to_s, from_s);
    const auto& values = project_->gameValues;
    state.gazing.resize(project_->gazes.size(), false);
    if (first) {
        state.feet = input.feet;
    }
    for (std::size_t i = state.values.size(); i < values.size(); ++i) {
        state.values.push_back({values[i]->rest, values[i]->rest, 0.0, 0.0});
    }
    if (first) {
        cause(state, keyOf(Cause::level), 0.0);
    }
    for (const Happening& happening : input.happenings) {
        if (happening.value) {
            for (std::size_t i = 0; i < values.size(); ++i) {
                if (values[i]->id == happening.value->first) {
                    setValue(state, i, happening.value->second, from_s);
                }
            }
            continue;
        }
        if (happening.hand) {
            byHand(state, *happening.hand, from_s);
            continue;
        }
        if (happening.thing || happening.opening || happening.step) {
            tell(state, happening, from_s, to_s);
            continue;
        }
        if (happening.burst) {
            beginBurst(state, *happening.burst, from_s);
        } else if (happening.cause == Cause::signal) {
            send(state, happening.signal, from_s);
        } else {
            state.actsTold = state.actsTold || happening.cause == Cause::jump || happening.cause == Cause::land ||
                             happening.cause == Cause::fall;
            cause(state, keyOf(happening.cause), from_s);
        }
    }
    goOnBursting(state, to_s);
    if (watchesGround_) {
        move(state, input, from_s);
    }
    state.feet = input.feet;
    state.time_s = to_s;
    state.stance = state.listener.step(*project_, level_->character, state.feet, ground_.get(), to_s - from_s,
                                       first || input.jumped, input.camera);

    if (zones_.size() > 0) {
        Moment here;
        here.feet = state.feet;
        here.visitor = state.stance.of(project_->counting.entering).at;
        here.when = TimeSpan::at(to_s);
        here.state = &state;
        ZonesAt now;
        zonesAt(here, now);
        const std::vector<Presence> before = std::exchange(state.zones, now).in;
        for (const Presence& presence : before) {
            if (now.depth(presence.zone) <= 0.0) {
                cause(state, keyOf(Cause::leave) + zones_.zone(presence.zone).id.text, to_s);
            }
        }
        for (const Presence& presence : now.in) {
            const bool known =
                std::any_of(before.begin(), before.end(), [&](const Presence& p) { return p.zone == presence.zone; });
            if (!known) {
                cause(state, keyOf(Cause::enter) + zones_.zone(presence.zone).id.text, to_s);
            }
        }
    }
    comeNear(state, to_s);
    beLively(state, first ? -1.0 : from_s, to_s);
    std::erase_if(state.starts, [to_s](const Start& start) { return start.over(to_s); });
}

void World::beLively(WorldState& state, double from_s, double to_s) const
{
    const auto look = [&](std::uint32_t emitter) {
        if (level_->emitters[emitter]->kind == EmitterKind::sprinkle) {
            sprinkle(state, emitter, from_s, to_s);
        } else {
            arrive(state, emitter, from_s, to_s);
        }
    };
    for (const std::uint32_t emitter : livelyEverywhere_) {
        look(emitter);
    }
    for (const std::uint32_t emitter : pulses_) {
        beat(state, emitter, from_s, to_s);
    }
    for (const Presence& presence : state.zones.counted) {
        for (const std::uint32_t emitter : livelyInZone_[presence.zone]) {
            look(emitter);
        }
    }
    if (!livelySomewhere_.empty()) {
        std::vector<std::uint32_t> near;
        livelyIndex_.containing(state.feet.at, near);
        for (const std::uint32_t index : near) {
            look(livelySomewhere_[index]);
        }
    }
}

void World::arrive(WorldState& state, std::uint32_t emitter, double from_s, double to_s) const
{
    Moment now;
    now.state = &state;
    now.when = TimeSpan::at(to_s);
    const auto setOff = setOff_s(emitter, now);
    const auto playing = second(emitter);
    if (!setOff || !playing) {
        return;
    }
    const Roaming& how = level_->emitters[emitter]->roaming;
    const double shift_s = *setOff + how.arrivingAfter_s;
    std::vector<Route::Arrival> arrivals;
    routeOf(emitter).arrivals(from_s - shift_s, to_s - shift_s, arrivals);
    for (const Route::Arrival& arrival : arrivals) {
        Start start = startOf(emitter, Start::Part::arrival, *playing, arrival.number, arrival.time_s + shift_s, {});
        start.at = how.stops[arrival.stop].at;
        start.level_db += how.arriving_db;
        if (how.arrivingFor_s > 0.0) {
            start.stopped_s = start.began_s + how.arrivingFor_s;
            start.fade_s = arrivalFade_s;
        }
        state.starts.push_back(start);
    }
}

} // namespace stone
