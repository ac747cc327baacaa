// SPDX-License-Identifier: MPL-2.0
#include "project/chance.h"
#include "world/world.h"

#include <algorithm>
#include <cmath>
#include <numbers>

/// What is set off again and again.
namespace stone
{

namespace
{

/// What goes on without an end is stopped after so long: a burst is over some day.
constexpr double burstLoop_s = 4.0;
constexpr double aboveFloor_m = 1.0;
constexpr double nearestRound_m = 2.0;
constexpr double farthestRound_m = 8.0;

} // namespace

void World::beginBurst(WorldState& state, const Burst& burst, double time_s) const
{
    if (burst.count <= 0) {
        state.bursts.clear();
        return;
    }
    state.bursts.push_back({burst, state.burstsBegun++, state.feet.at + Vec3{0.0, 0.0, aboveFloor_m}, 0, time_s});
}

/// One of a burst, at its time.
void World::fire(WorldState& state, const Bursting& burst, double time_s) const
{
    if (burst.what.of == Burst::Of::signal) {
        send(state, burst.what.signal, time_s);
        return;
    }
    if (burst.what.of == Burst::Of::use) {
        use(state, time_s);
        return;
    }
    const auto first = indexOf(burst.what.emitter);
    if (!first) {
        return;
    }
    std::uint32_t emitter = *first;
    if (burst.what.allOfItsSound) {
        std::vector<std::uint32_t> players;
        for (std::uint32_t i = 0; i < level_->emitters.size(); ++i) {
            if (level_->emitters[i]->sound == level_->emitters[*first]->sound) {
                players.push_back(i);
            }
        }
        emitter = players[static_cast<std::size_t>(burst.fired) % players.size()];
    }
    if (!own_[emitter]) {
        return;
    }
    const Emitter& what = *level_->emitters[emitter];
    const std::uint64_t number = state.burstStarts++;
    const Sound& sound = *playables_[*own_[emitter]].sound;
    std::optional<std::size_t> file;
    if (sound.make == Make::one && sound.files.size() > 1) {
        file = static_cast<std::size_t>(stone::chance(project_->seed, what.id.text, "burst file", number) *
                                        static_cast<double>(sound.files.size()));
    }
    Start start = startOf(emitter, Start::Part::burst, *own_[emitter], number, time_s, file);
    if (!std::isfinite(start.ends_s)) {
        start.stopped_s = time_s + burstLoop_s;
        start.fade_s = what.starting.fadeOut_s;
    }
    switch (burst.what.where) {
    case Burst::Where::own:
        // These have no place of their own before they start.
        if (what.kind == EmitterKind::sprinkle) {
            start.at = what.at;
        } else if (what.kind == EmitterKind::steps) {
            start.at = state.feet.at;
        }
        break;
    case Burst::Where::here: start.at = burst.at; break;
    case Burst::Where::around: {
        const double angle = 2.0 * std::numbers::pi * stone::chance(project_->seed, what.id.text, "burst angle", number);
        const double share = stone::chance(project_->seed, what.id.text, "burst distance", number);
        const double away_m = nearestRound_m + (farthestRound_m - nearestRound_m) * share;
        start.at = burst.at + Vec3{std::sin(angle), std::cos(angle), 0.0} * away_m;
        break;
    }
    }
    state.starts.push_back(start);
}

void World::goOnBursting(WorldState& state, double to_s) const
{
    // What is set off may not set off more bursts, so the list stays as it is meanwhile.
    for (Bursting& burst : state.bursts) {
        while (burst.fired < burst.what.count && burst.next_s <= to_s) {
            fire(state, burst, burst.next_s);
            const double share =
                stone::chance(project_->seed, "burst", std::to_string(burst.serial), static_cast<std::uint64_t>(burst.fired));
            // Irregular: as if each came on its own, at the same mean rate.
            burst.next_s += burst.what.irregular ? -std::log(1.0 - share) * burst.what.every_s : burst.what.every_s;
            ++burst.fired;
        }
    }
    std::erase_if(state.bursts, [](const Bursting& burst) { return burst.fired >= burst.what.count; });
}

} // namespace stone
