// SPDX-License-Identifier: MPL-2.0
#include "world/world.h"

#include "geometry/solid.h"
#include "world/walk_pose.h"

#include <algorithm>
#include <cmath>

/// Where and when the one-shots of sprinkles start.
namespace stone
{

namespace
{

/// So often a place is drawn before a start is given up, and counted.
constexpr unsigned mostAttempts = 24;
/// An answer draws its places from here on.
constexpr unsigned answerAttempts = 128;
/// Of a one-shot whose length is not known.
constexpr double unknownLength_s = 20.0;
/// After an absence at most so many starts are skipped one by one.
constexpr int mostSkipped = 100'000;

std::optional<Picker> pickerOf(const Sound& sound, const std::string& id, std::uint64_t seed, const char* purpose)
{
    if (sound.make != Make::one || sound.files.size() < 2) {
        return {};
    }
    return Picker(seed, id, purpose, sound.sequence.order, sound.files.size());
}

} // namespace

void World::sprinkle(WorldState& state, std::uint32_t emitter, double from_s, double to_s) const
{
    const Emitter& what = *level_->emitters[emitter];
    const SprinkleChance chance{project_->seed, what.id.text};
    auto known = state.sprinkles.find(emitter);
    if (known == state.sprinkles.end()) {
        if (!ofItself_[emitter]) {
            return;
        }
        SprinkleState fresh;
        fresh.on = true;
        fresh.origin_s = what.startAfter_s;
        fresh.next_s = fresh.origin_s + sprinkleInterval_s(what.sprinkling, chance, 0);
        known = state.sprinkles.emplace(emitter, std::move(fresh)).first;
    }
    SprinkleState& sprinkle = known->second;
    if (!sprinkle.on || !own_[emitter]) {
        return;
    }
    sprinkle.near_s += std::max(to_s - std::max(from_s, sprinkle.origin_s), 0.0);
    for (int i = 0; i < mostSkipped && sprinkle.next_s <= to_s; ++i) {
        // Starts that fell while nobody was near are gone.
        std::optional<double> ends_s;
        if (sprinkle.next_s > from_s &&
            (what.sprinkling.inAll == 0 || sprinkle.begun < static_cast<std::uint64_t>(what.sprinkling.inAll))) {
            ends_s = sprinkleStart(state, emitter, sprinkle);
        }
        ++sprinkle.next;
        const double after_s = what.sprinkling.waitsForTail ? ends_s.value_or(sprinkle.next_s) : sprinkle.next_s;
        sprinkle.next_s = after_s + sprinkleInterval_s(what.sprinkling, chance, sprinkle.next);
    }
}

std::optional<double> World::sprinkleStart(WorldState& state, std::uint32_t emitter, SprinkleState& sprinkle) const
{
    const Emitter& what = *level_->emitters[emitter];
    const Sprinkling& how = what.sprinkling;
    const SprinkleChance chance{project_->seed, what.id.text};
    const auto zone = zones_.indexOf(what.zone);
    if (zone && !zones_.sprinklesIn(*zone, state.zones)) {
        return {};
    }
    const double time_s = sprinkle.next_s;
    const auto sounding = std::count_if(state.starts.begin(), state.starts.end(), [&](const Start& start) {
        return start.emitter == emitter && start.part == Start::Part::own && !start.over(time_s);
    });
    if (sounding >= how.atOnce || chance.draw("skip", sprinkle.next) < how.skipChance) {
        ++sprinkle.skipped;
        return {};
    }
    if (!sprinkle.sectors) {
        sprinkle.sectors.emplace(project_->seed, what.id.text, "sector", Order::shuffled, sprinkleSectors);
    }
    const auto at = sprinkleAt(state, emitter, chance, sprinkle.next, sprinkle.sectors->next(), 0);
    if (!at) {
        ++sprinkle.placeless;
        return {};
    }
    const Sound& sound = *playables_[*own_[emitter]].sound;
    if (!sprinkle.files) {
        sprinkle.files = pickerOf(sound, what.id.text, project_->seed, "file");
    }
    const auto file = sprinkle.files ? std::optional(sprinkle.files->next()) : std::nullopt;
    sprinkle.heardFiles.resize(sound.files.size());
    if (file) {
        if (sprinkle.heardFiles[*file] && !sprinkle.firstRepeat) {
            sprinkle.firstRepeat = sprinkle.begun;
        }
        sprinkle.heardFiles[*file] = true;
    }
    Start start = startOf(emitter, Start::Part::own, *own_[emitter], sprinkle.next, time_s, file);
    start.ends_s = std::min(start.ends_s, std::isfinite(start.ends_s) ? start.ends_s : time_s + unknownLength_s);
    start.at = how.follows ? *at - state.feet.at : *at;
    start.follows = how.follows;
    ++sprinkle.begun;
    const double ends_s = start.ends_s;
    answer(state, emitter, sprinkle, start);
    state.starts.push_back(start);
    return ends_s;
}

void World::answer(WorldState& state, std::uint32_t emitter, SprinkleState& sprinkle, const Start& call) const
{
    const Emitter& what = *level_->emitters[emitter];
    const Sprinkling& how = what.sprinkling;
    const SprinkleChance chance{project_->seed, what.id.text};
    const auto playing = second(emitter);
    if (!playing || chance.draw("answers", call.number) >= how.answerChance) {
        return;
    }
    const auto at = sprinkleAt(state, emitter, chance, call.number, sprinkle.sectors->next(), answerAttempts);
    if (!at) {
        ++sprinkle.placeless;
        return;
    }
    const Sound& sound = *playables_[*playing].sound;
    if (!sprinkle.answers) {
        sprinkle.answers = pickerOf(sound, what.id.text, project_->seed, "answer");
    }
    std::optional<std::size_t> file;
    if (sprinkle.answers) {
        file = sprinkle.answers->next();
        // Never the call's own variation: the next one is another.
        if (how.answer == what.sound && file == call.file) {
            file = sprinkle.answers->next();
        }
    }
    const double after_s = chance.between(how.answerLeast_s, how.answerMost_s, "answer after", call.number);
    Start start = startOf(emitter, Start::Part::answer, *playing, call.number, call.began_s + after_s, file);
    start.ends_s = std::min(start.ends_s, std::isfinite(start.ends_s) ? start.ends_s : start.began_s + unknownLength_s);
    start.at = how.follows ? *at - state.feet.at : *at;
    start.follows = how.follows;
    state.starts.push_back(start);
}

std::optional<Vec3> World::sprinkleAt(const WorldState& state, std::uint32_t emitter, const SprinkleChance& chance,
                                      std::uint64_t number, std::size_t sector, unsigned firstAttempt) const
{
    const Emitter& what = *level_->emitters[emitter];
    const Sprinkling& how = what.sprinkling;
    Moment here;
    here.feet = state.feet;
    here.when = TimeSpan::at(state.time_s);
    here.state = &state;
    const auto zone = zones_.indexOf(what.zone);
    const Carriage player{state.feet.at, state.feet.heading_deg, true};
    const Vec3 head = headOf(level_->character, state.feet).at;
    const bool inShape = how.where == Sprinkling::Where::shape;
    const bool inZone = how.where == Sprinkling::Where::zone && zone;
    const Carriage carriage = carriageOf(inZone ? zones_.zone(*zone).riding : what.riding, here);
    const Solid* solid = inZone ? &zones_.solid(*zone) : inShape ? &scatterSolids_.at(emitter) : nullptr;
    for (unsigned attempt = firstAttempt; attempt < firstAttempt + mostAttempts; ++attempt) {
        Vec3 place{0.0};
        if (solid != nullptr) {
            const auto [low, high] = solid->box();
            const std::uint64_t counter = (number << 8U) | attempt;
            const Vec3 own{chance.between(low.x, high.x, "x", counter), chance.between(low.y, high.y, "y", counter),
                           chance.between(low.z, high.z, "z", counter)};
            if (!solid->contains(own)) {
                continue;
            }
            place = carriage.placed(own);
        } else if (how.where == Sprinkling::Where::ring) {
            place = head + player.turned(sprinklePlace(how, chance, number, sector, attempt));
        } else {
            place = player.placed(sprinklePlace(how, chance, number, sector, attempt));
        }
        if (zone && how.insideZone && !inZone) {
            const Carriage home = carriageOf(zones_.zone(*zone).riding, here);
            if (!zones_.solid(*zone).contains(home.own(place))) {
                continue;
            }
        }
        // Wherever it falls: never closer than the least distance of a ring.
        if (how.where == Sprinkling::Where::ring && glm::length(place - head) < how.nearest_m - 1e-9) {
            continue;
        }
        if (how.outsideSolids && ground_ != nullptr && ground_->insideSolid(place)) {
            continue;
        }
        return place;
    }
    return {};
}

} // namespace stone
