// SPDX-License-Identifier: MPL-2.0
#include "acoustics/lane.h"
#include "project/edit.h"
#include "world/picking.h"
#include "world/world.h"

#include <algorithm>
#include <cmath>

/// The beats of pulses: what lies ahead, how far, and when it is told.
namespace stone
{

namespace
{

EdgeKindSet kindsOf(const Pulsing& how)
{
    EdgeKindSet kinds;
    const auto set = [&](EdgeKind kind, bool on) { kinds.set(static_cast<std::size_t>(kind), on); };
    set(EdgeKind::drop, how.drops);
    set(EdgeKind::wall, how.walls);
    set(EdgeKind::water, how.water);
    set(EdgeKind::kerb, how.kerbs);
    set(EdgeKind::step, how.steps);
    return kinds;
}

const SoundId& soundOf(const Emitter& emitter, EdgeKind kind)
{
    const Pulsing& how = emitter.pulsing;
    const SoundId* const ids[edgeKindCount] = {&how.dropSound, &how.wallSound, &how.kerbSound, &how.stepSound, &how.waterSound};
    const SoundId& own = *ids[static_cast<std::size_t>(kind)];
    return own.empty() ? emitter.sound : own;
}

/// The emitter's lane of a property over distance; null where it has none that is on.
const Lane* laneOf(const Project& project, const Emitter& emitter, LaneProperty property)
{
    const std::vector<Lane>& lanes = falloffOf(project, emitter).lanes;
    const auto found =
        std::find_if(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.on && lane.property == property; });
    return found == lanes.end() ? nullptr : &*found;
}

} // namespace

double beatInterval_s(const Project& project, const Emitter& emitter, double distance_m)
{
    const Pulsing& how = emitter.pulsing;
    if (const Lane* lane = laneOf(project, emitter, LaneProperty::interval)) {
        return std::max(laneAt(*lane, distance_m), leastInterval_s);
    }
    const double share = std::clamp(distance_m / how.within_m, 0.0, 1.0);
    return how.nearest_s + (how.farthest_s - how.nearest_s) * share;
}

std::optional<PulseState::Hazard> World::hazardOf(const WorldState& state, std::uint32_t emitter, const PulseState& pulse) const
{
    const Emitter& what = *level_->emitters[emitter];
    const Pulsing& how = what.pulsing;
    // All round, each way takes its quarter.
    constexpr double turns_deg[] = {0.0, -90.0, 90.0, 180.0};
    constexpr double quarter_deg = 45.0;
    // On an upright sheet there is nothing beside: one looks straight along it, ahead and back.
    constexpr double straight_deg = 1.0;
    const bool upright = level_->sideOn.has_value();
    const std::size_t ways = how.looks == Pulsing::Looks::ahead ? 1 : how.looks == Pulsing::Looks::sides && !upright ? 3 : 4;
    const double aside_deg = upright ? straight_deg : how.looks == Pulsing::Looks::all ? quarter_deg : how.aside_deg;
    const EdgeKindSet kinds = kindsOf(how);
    std::optional<PulseState::Hazard> nearest;
    std::optional<PulseState::Hazard> same;
    for (std::size_t way = 0; way < ways; way += upright ? 3 : 1) {
        const double heading_deg = state.feet.heading_deg + turns_deg[way];
        for (const auto& ahead : edges_->aheadOfEach(state.feet.at, heading_deg, aside_deg, kinds, how.within_m)) {
            if (!ahead) {
                continue;
            }
            const PulseState::Hazard hazard{.kind = ahead->kind, .way = way, .at = ahead->at, .distance_m = ahead->distance_m};
            if (!nearest || hazard.distance_m < nearest->distance_m) {
                nearest = hazard;
            }
            if (pulse.hazard && pulse.hazard->kind == hazard.kind && pulse.hazard->way == way) {
                same = hazard;
            }
        }
    }
    if (same && same->distance_m - nearest->distance_m < how.margin_m) {
        nearest = same;
    }
    if (nearest) {
        nearest->every_s = beatInterval_s(*project_, what, nearest->distance_m);
    }
    return nearest;
}

void World::beat(WorldState& state, std::uint32_t emitter, double from_s, double to_s) const
{
    const Emitter& what = *level_->emitters[emitter];
    auto known = state.pulses.find(emitter);
    if (known == state.pulses.end()) {
        PulseState fresh;
        fresh.on = ofItself_[emitter];
        fresh.origin_s = what.startAfter_s;
        known = state.pulses.emplace(emitter, std::move(fresh)).first;
    }
    PulseState& pulse = known->second;
    if (!pulse.on || edges_ == nullptr || to_s <= pulse.origin_s) {
        pulse.hazard.reset();
        return;
    }
    pulse.hazard = hazardOf(state, emitter, pulse);
    double now_s = std::max(from_s, pulse.origin_s);
    if (!pulse.hazard) {
        // The time since the last beat counts on, so that what comes into reach is told at once, but not twice as fast.
        pulse.phase = std::min(pulse.phase + (to_s - now_s) / beatInterval_s(*project_, what, what.pulsing.within_m), 1.0);
        return;
    }
    const double every_s = pulse.hazard->every_s;
    while ((1.0 - pulse.phase) * every_s <= to_s - now_s) {
        now_s += std::max((1.0 - pulse.phase) * every_s, 0.0);
        pulse.phase = 0.0;
        const auto playing = playable(soundOf(what, pulse.hazard->kind), Rounds::once);
        if (!playing) {
            continue;
        }
        const auto file = pickedFile(pulse.files, *playing, *playables_[*playing].sound, what.id.text, project_->seed, "beat");
        Start start = startOf(emitter, Start::Part::own, *playing, pulse.beats++, now_s, file);
        // At the height of the ears: how far it is, is how far it is on the floor.
        start.at = pulse.hazard->at + Vec3{0.0, 0.0, level_->character.earsHeight_m};
        if (const Lane* lane = laneOf(*project_, what, LaneProperty::pitch)) {
            start.pitch_st += laneAt(*lane, pulse.hazard->distance_m);
        }
        pulse.lastBeat_s = now_s;
        state.starts.push_back(start);
    }
    pulse.phase += (to_s - now_s) / every_s;
}

} // namespace stone
