// SPDX-License-Identifier: MPL-2.0
#include "hearing/model.h"

#include "acoustics/air.h"
#include "world/carriage.h"

#include <algorithm>

/// How the places and shapes that sound lie to the ears.
namespace stone
{

namespace
{

/// A mean direction that is shorter than this has none worth keeping when it is made as long as that of a point.
constexpr double leastDirection = 0.25;

/// Width goes with the square root of what a direction lacks in length: an opening that began and ended in a corner would
/// widen at a stroke.
double eased(double share)
{
    return share * share * (3.0 - 2.0 * share);
}

/// How what is met from the place that counts lies to the ears: as far and as wide as from there, in the ears' own direction.
Vec3 seenFrom(const Moment& moment, const Vec3& at, const Vec3& mean)
{
    const Vec3 way = at - moment.ears.at;
    const double length = glm::length(way);
    return moment.nearest == moment.ears.at || length <= 0.0 ? mean : way * (glm::length(mean) / length);
}

} // namespace

HearingModel::Extent HearingModel::extentOfArea(const Moment& moment, const Source& source, std::uint32_t index,
                                                bool directions) const
{
    Extent extent;
    Seen all;
    extent.distance_m = boundless;
    const auto meet = [&](std::uint32_t area) {
        const Emitter& emitter = *level().emitters[area];
        const Carriage carriage = world_->carriageOf(emitter.riding, moment);
        const Vec3 own = carriage.own(moment.nearest);
        const Solid& solid = *world_->solidOf(area);
        const Vec3 nearest = solid.nearest(own);
        if (const double distance = glm::length(own - nearest); distance < extent.distance_m) {
            extent.distance_m = distance;
            extent.at = carriage.placed(nearest);
        }
        if (directions) {
            Seen seen = solid.seenFrom(own);
            seen.vector = carriage.turned(seen.vector);
            all.add(seen);
        }
    };
    meet(index);
    for (const std::uint32_t other : source.sharers) {
        meet(other);
    }
    if (directions && extent.distance_m > 0.0) {
        extent.mean = seenFrom(moment, extent.at, meanOf(all, extent.at - moment.nearest));
    }
    return extent;
}

HearingModel::Extent HearingModel::extentOf(const Moment& moment, const Source& source, std::uint32_t index, const Start& start,
                                            bool directions) const
{
    const Emitter& emitter = *source.emitter;
    Extent extent;
    const double near = emitter.placement.nearRange_m;
    if (emitter.kind == EmitterKind::bed && source.zone) {
        const Carriage carriage = world_->carriageOf(world_->zones().zone(*source.zone).riding, moment);
        const Vec3 own = carriage.own(moment.nearest);
        const Solid& solid = world_->zones().solid(*source.zone);
        if (directions) {
            const Met met = solid.meet(own);
            extent.at = carriage.placed(met.nearest);
            extent.distance_m = met.distance_m;
            extent.mean = seenFrom(moment, extent.at, carriage.turned(met.mean));
            extent.closed = eased(world_->zones().closedness(*source.zone, own));
        } else {
            const Vec3 nearest = solid.nearest(own);
            extent.at = carriage.placed(nearest);
            extent.distance_m = glm::length(own - nearest);
        }
        extent.front_deg = emitter.heading_deg + carriage.heading_deg;
        return extent;
    }
    if (emitter.kind == EmitterKind::area) {
        extent = extentOfArea(moment, source, index, directions);
        extent.front_deg = emitter.heading_deg + world_->carriageOf(emitter.riding, moment).heading_deg;
        if (!emitter.area.widens) {
            const double length = glm::length(extent.mean);
            extent.mean *= length > 0.0 ? 1.0 / std::max(length, leastDirection) : 0.0;
        }
    } else {
        if (emitter.kind == EmitterKind::roamer && start.part == Start::Part::own) {
            const Route::Place place = world_->roamerAt(index, moment);
            extent.at = place.at;
            extent.front_deg = emitter.heading_deg + place.heading_deg;
            const double heading = radians(place.heading_deg);
            extent.velocity_m_s = Vec3{std::sin(heading), std::cos(heading), 0.0} * place.speed_m_s;
            extent.moving = emitter.roaming.onlyMoving ? place.moving : 1.0;
        } else if (start.at) {
            extent.at = start.follows ? moment.feet.at + *start.at : *start.at;
            extent.front_deg = emitter.heading_deg;
        } else {
            const Carriage carriage = world_->carriageOf(emitter.riding, moment);
            extent.at = carriage.placed(emitter.at);
            extent.front_deg = emitter.heading_deg + carriage.heading_deg;
        }
        const Vec3 way = extent.at - moment.ears.at;
        extent.distance_m = glm::length(way);
        extent.mean = extent.distance_m > 0.0 ? way / extent.distance_m : Vec3{0.0};
    }
    extent.closed = extent.distance_m < near ? extent.distance_m / near : 1.0;
    if (emitter.kind == EmitterKind::area) {
        extent.closed = eased(extent.closed);
    }
    return extent;
}

double HearingModel::travelled_m(const Moment& moment, const Source& source, std::uint32_t index, const Start& start,
                                 const Extent& extent) const
{
    const Emitter& emitter = *source.emitter;
    const bool roams = emitter.kind == EmitterKind::roamer && start.part == Start::Part::own;
    const bool moves = roams || emitter.riding.on == Riding::On::roamer;
    if (!moves || emitter.placement.doppler <= 0.0 || moment.when.always()) {
        return extent.distance_m;
    }
    // The sound that arrives at t left at t - d, where c d is the way from there: each round puts the way from where it was
    // into the next. A round is nearer by the speed over that of sound; twice as fast as a train that is a quarter.
    constexpr int mostRounds = 40;
    constexpr double near_m = 1e-4;
    double way_m = extent.distance_m;
    Moment then = moment;
    for (int round = 0; round < mostRounds; ++round) {
        then.when.to_s = moment.when.to_s - way_m / speedOfSound_m_s;
        const double from_m = extentOf(then, source, index, start, false).distance_m;
        const double moved_m = std::abs(from_m - way_m);
        way_m = from_m;
        if (moved_m < near_m) {
            break;
        }
    }
    return way_m;
}

} // namespace stone
