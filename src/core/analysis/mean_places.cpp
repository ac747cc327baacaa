// SPDX-License-Identifier: MPL-2.0
#include "analysis/mean_places.h"

#include "geometry/solid.h"
#include "project/chance.h"
#include "world/carriage.h"
#include "world/sprinkling.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr std::uint64_t sprinklePlaces = sprinkleSectors;
constexpr int roundMoments = 16;
/// Of a sound whose length is not known.
constexpr double unknownLength_s = 1.0;

/// How many of a sprinkle's one-shots sound at a time, in the mean.
double soundingAtOnce(const World& world, std::uint32_t emitter)
{
    const Sprinkling& how = world.level().emitters[emitter]->sprinkling;
    const auto playable = world.playableOf(emitter);
    if (!playable) {
        return 0.0;
    }
    Start start{.emitter = emitter, .playable = *playable};
    double length_s = world.lengthOf_s(start);
    length_s = std::isfinite(length_s) && length_s > 0.0 ? length_s : unknownLength_s;
    const double every_s = meanInterval_s(how) + (how.waitsForTail ? length_s : 0.0);
    return std::min(length_s / every_s, static_cast<double>(how.atOnce)) * (1.0 - how.skipChance);
}

std::vector<MeanPlace> placesOfSprinkle(const World& world, std::uint32_t emitter)
{
    const Emitter& what = *world.level().emitters[emitter];
    const Sprinkling& how = what.sprinkling;
    const SprinkleChance chance{world.project().seed, what.id.text};
    const auto zone = world.zones().indexOf(what.zone);
    const bool inZone = how.where == Sprinkling::Where::zone && zone;
    const Solid* solid = inZone ? &world.zones().solid(*zone) : world.scatterOf(emitter);
    std::vector<MeanPlace> places;
    if (solid == nullptr) {
        const double head_m = how.where == Sprinkling::Where::ring ? world.level().character.earsHeight_m : 0.0;
        for (std::uint64_t i = 0; i < sprinklePlaces; ++i) {
            const Vec3 off = sprinklePlace(how, chance, i, i % sprinkleSectors, 0);
            places.push_back({.at = off + Vec3{0.0, 0.0, head_m}, .follows = true});
        }
    } else {
        const Carriage carriage = world.carriageOf(inZone ? world.zones().zone(*zone).riding : what.riding, Moment());
        const auto [low, high] = solid->box();
        // A box has few places outside a shape; a thin one may have many.
        constexpr std::uint64_t mostDraws = 1024;
        for (std::uint64_t i = 0; i < mostDraws && places.size() < sprinklePlaces; ++i) {
            const Vec3 own{chance.between(low.x, high.x, "mean x", i), chance.between(low.y, high.y, "mean y", i),
                           chance.between(low.z, high.z, "mean z", i)};
            if (solid->contains(own)) {
                places.push_back({.at = carriage.placed(own)});
            }
        }
    }
    const double each = places.empty() ? 0.0 : soundingAtOnce(world, emitter) / static_cast<double>(places.size());
    for (MeanPlace& place : places) {
        place.share = each;
    }
    return places;
}

std::vector<MeanPlace> placesOfRoamer(const World& world, std::uint32_t emitter)
{
    const Route& route = world.routeOf(emitter);
    std::vector<MeanPlace> places;
    if (route.empty()) {
        return places;
    }
    const double round_s = std::min(route.round_s(), route.ends_s());
    const bool onlyMoving = world.level().emitters[emitter]->roaming.onlyMoving;
    for (int i = 0; i < roundMoments; ++i) {
        const Route::Place place = route.at(round_s * (i + 0.5) / roundMoments);
        const double share = (onlyMoving ? place.moving * place.moving : 1.0) / roundMoments;
        if (share <= 0.0) {
            continue;
        }
        // Where it waits it is asked for once.
        const auto same = std::find_if(places.begin(), places.end(),
                                       [&](const MeanPlace& known) { return glm::length(known.at - place.at) < 1e-6; });
        if (same != places.end()) {
            same->share += share;
        } else {
            places.push_back({.at = place.at, .share = share});
        }
    }
    return places;
}

} // namespace

bool isIrregular(const World& world, std::uint32_t emitter)
{
    const EmitterKind kind = world.level().emitters[emitter]->kind;
    return kind == EmitterKind::sprinkle || kind == EmitterKind::roamer;
}

std::vector<MeanPlace> meanPlaces(const World& world, std::uint32_t emitter)
{
    return world.level().emitters[emitter]->kind == EmitterKind::sprinkle ? placesOfSprinkle(world, emitter)
                                                                          : placesOfRoamer(world, emitter);
}

} // namespace stone
