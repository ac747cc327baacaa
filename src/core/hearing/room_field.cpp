// SPDX-License-Identifier: MPL-2.0
#include "hearing/room_field.h"

#include "acoustics/barrier.h"
#include "acoustics/wall_loss.h"
#include "acoustics/wedge.h"
#include "dsp/decibel.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace stone
{

namespace
{

constexpr double sabine = 0.161;       ///< s/m
constexpr std::size_t weighedBand = 4; ///< 1 kHz
/// Shares of the energy below this are not heard (-70 dB).
constexpr double leastShare = 1e-7;
/// No more of a source's power than this leaves by one opening: the rest meets the walls first.
constexpr double mostLeaving = 0.8;
constexpr double leafThickness_m = 0.04;

/// Eases a share from 0 to 0.5 into 0 to 1: how far a field that is met in an opening already surrounds.
double surrounding(double share)
{
    const double t = std::clamp(2.0 * share, 0.0, 1.0);
    return t * t * (3.0 - 2.0 * t);
}

/// What bending at one opening takes, dB, beside the spreading: behind its nearest edge as a thin rigid screen has it, within
/// its light less and less the further from the edge; alike at the border.
class Bend
{
public:
    /// `detour_m`: over the edge; negative in the light.
    Bend(const WedgePath& path, bool shadow, double detour_m)
        : shadow_(shadow), detour_m_(detour_m), edge_(shadow ? path : atBorder(path))
    {
        if (shadow) {
            spreading_ = std::pow(path.round_m() / path.direct_m(path.receiver_rad - path.source_rad), 2.0);
        }
    }

    /// The share of the power that is left in each band.
    std::array<double, 8> shares() const
    {
        std::array<double, 8> shares = edge_.shares();
        if (shadow_) {
            std::transform(shares.begin(), shares.end(), shares.begin(),
                           [&](double share) { return std::min(share * spreading_, 1.0); });
            return shares;
        }
        static const double atBorder_db = kurzeAnderson_db(0.0);
        for (std::size_t band = 0; band < shares.size(); ++band) {
            const double fresnel = 2.0 * detour_m_ * octaveBands_hz[band] / speedOfSound_m_s;
            const double lit = kurzeAnderson_db(fresnel) / atBorder_db;
            shares[band] = lit > 0.0 ? std::min(std::pow(shares[band], lit), 1.0) : 1.0;
        }
        return shares;
    }

private:
    static WedgePath atBorder(WedgePath path)
    {
        path.receiver_rad = path.source_rad + std::numbers::pi;
        return path;
    }

    bool shadow_;
    double detour_m_;
    WedgeLoss edge_;
    double spreading_ = 1.0; ///< in the shadow: which the way's own length already has
};

Bend bendAt(const RoomMap::Hole& hole, const Vec3& before, const Vec3& at, const Vec3& after)
{
    constexpr double least_m = 0.02;
    const Vec3 edge = hole.nearestOnEdge(at);
    const Vec3 off = edge - hole.centre;
    const double aside = glm::dot(off, hole.along);
    const bool jamb = std::abs(std::abs(aside) - hole.halfWidth_m) < 1e-9;
    const Vec3 up{0.0, 0.0, 1.0};
    const Vec3 line = jamb ? up : hole.along;
    const Vec3 wall = jamb ? hole.along * std::copysign(1.0, aside) : up * std::copysign(1.0, off.z);
    const auto across = [&](const Vec3& place) {
        const Vec3 way = place - edge;
        return way - line * glm::dot(way, line);
    };
    const auto angle = [&](const Vec3& way, double length) {
        return std::acos(std::clamp(glm::dot(way, wall) / length, -1.0, 1.0));
    };
    const Vec3 a = across(before);
    const Vec3 b = across(after);
    WedgePath path;
    path.source_m = std::max(glm::length(a), least_m);
    path.receiver_m = std::max(glm::length(b), least_m);
    path.source_rad = angle(a, path.source_m);
    path.receiver_rad = 2.0 * std::numbers::pi - angle(b, path.receiver_m);
    path.along_m = glm::dot(after - before, line);
    const bool shadow = !hole.passedBy(before, after) && path.receiver_rad - path.source_rad > std::numbers::pi;
    return {path, shadow, -(glm::length(edge - before) + glm::length(after - edge) - glm::length(after - before))};
}

} // namespace

RoomField::RoomField(const World& world, const RoomMap& map) : world_(&world), map_(&map)
{
    const Level& level = world.level();
    for (std::uint32_t room = 0; room < map.size(); ++room) {
        const Reverb& reverb = level.rooms[room]->reverb;
        Bands area{};
        for (std::size_t band = 0; band < area.size(); ++band) {
            area[band] = sabine * map.volume_m3(room) / reverb.rt60_s[band];
        }
        absorption_m2_.push_back(area);
        const bool sounds = reverb.on && reverb.tail != Tail::none && reverb.late_db > -96.0;
        lateEnergy_.push_back(sounds ? 16.0 * std::numbers::pi / area[weighedBand] * std::pow(10.0, reverb.late_db / 10.0)
                                     : 0.0);
    }
    for (const auto& opening : level.openings) {
        const Project& project = world.project();
        const Material* chosen = findMaterial(project.materials, opening->leaf);
        const Material* usual = findMaterial({}, {"door"});
        const Material& leaf = chosen != nullptr ? *chosen : usual != nullptr ? *usual : unknownMaterial();
        const Bands loss = wallLoss_db(leaf, leafThickness_m);
        std::array<double, 8> passes{};
        std::transform(loss.begin(), loss.end(), passes.begin(), powerOf);
        leaf_.push_back(passes);
    }
}

void RoomField::prepare(const Moment& moment, Scratch& scratch, double keepWithin_m) const
{
    const auto& openings = world_->level().openings;
    scratch.open.resize(openings.size());
    for (std::uint32_t i = 0; i < openings.size(); ++i) {
        scratch.open[i] = world_->openShare(moment, i);
    }
    scratch.room = map_->roomAt(moment.ears.at);
    if (!scratch.fresh || scratch.ways.room() != scratch.room ||
        glm::length(scratch.ways.from() - moment.ears.at) > keepWithin_m) {
        scratch.ways.spreadFrom(*map_, moment.ears.at, scratch.room);
        scratch.fresh = true;
    }
}

std::array<double, 8> RoomField::through(std::uint32_t hole, const OpenShares& open) const
{
    std::array<double, 8> passes = leaf_[hole];
    for (double& share : passes) {
        share = open[hole] + (1.0 - open[hole]) * share;
    }
    return passes;
}

const std::vector<WaySeen>& RoomField::waysTo(const Vec3& place, std::uint32_t room, Scratch& scratch) const
{
    scratch.seen.clear();
    scratch.found.clear();
    scratch.ways.waysTo(*map_, place, room, scratch.found);
    const Vec3& ears = scratch.ways.from();
    const double direct_m = glm::length(place - ears);
    for (const RoomWay& way : scratch.found) {
        WaySeen seen{{}, std::max(way.length_m - direct_m, 0.0), {}, true};
        seen.points.reserve(way.points.size() + 2);
        seen.points.push_back(ears);
        auto& left = seen.left;
        left.fill(way.share * (direct_m > 0.0 ? std::pow(direct_m / std::max(way.length_m, direct_m), 2.0) : 1.0));
        for (std::size_t i = 0; i < way.holes.size(); ++i) {
            const RoomMap::Hole& hole = map_->holes()[way.holes[i]];
            const Vec3& before = i > 0 ? way.points[i - 1] : ears;
            const Vec3& after = i + 1 < way.points.size() ? way.points[i + 1] : place;
            const auto bent = bendAt(hole, before, way.points[i], after).shares();
            const auto passes = through(way.holes[i], scratch.open);
            for (std::size_t band = 0; band < left.size(); ++band) {
                left[band] *= passes[band] * bent[band];
            }
            seen.points.push_back(way.points[i]);
        }
        seen.points.push_back(place);
        scratch.seen.push_back(std::move(seen));
    }
    return scratch.seen;
}

RoomSends RoomField::sendsOf(const Vec3& place, double level_db, const OpenShares& open) const
{
    RoomSends sends{};
    std::size_t count = 0;
    const std::uint32_t room = map_->roomAt(place);
    if (room != RoomMap::outside) {
        sends[count++] = {room, level_db};
    }
    // Where there are as many as there may be, the softest makes room.
    const auto softest = [&] {
        return std::min_element(sends.begin() + 1, sends.end(),
                                [](const RoomSend& a, const RoomSend& b) { return a.level_db < b.level_db; });
    };
    for (const std::uint32_t i : map_->holesOf(room)) {
        const RoomMap::Hole& hole = map_->holes()[i];
        const std::uint32_t next = hole.beyond(room);
        if (next == RoomMap::outside) {
            continue;
        }
        const double passes = through(i, open)[weighedBand];
        const auto known = std::find_if(sends.begin(), sends.begin() + static_cast<std::ptrdiff_t>(count),
                                        [&](const RoomSend& send) { return send.room == next; });
        const bool isKnown = known != sends.begin() + static_cast<std::ptrdiff_t>(count);
        if (room == RoomMap::outside && !isKnown && count == mostSends) {
            // From outside there may be hundreds: none fills more of all directions than its area at its nearest place.
            const Vec3 way = hole.nearest(place) - place;
            const double most = hole.area_m2() * passes / (4.0 * std::numbers::pi * std::max(glm::dot(way, way), 1e-12));
            if (level_db + 10.0 * std::log10(std::max(most, 1e-12)) < softest()->level_db) {
                continue;
            }
        }
        // Out of a room by its share of the absorbing area; from outside by what the opening is met by.
        const double leaving = room != RoomMap::outside
                                   ? std::min(hole.area_m2() * passes / absorption_m2_[room][weighedBand], mostLeaving)
                                   : hole.share(place) * passes;
        const double into_db = level_db + 10.0 * std::log10(std::max(leaving, 1e-12));
        if (isKnown) {
            known->level_db = 10.0 * std::log10(std::pow(10.0, known->level_db / 10.0) + std::pow(10.0, into_db / 10.0));
        } else if (count < mostSends) {
            sends[count++] = {next, into_db};
        } else if (RoomSend* const least = softest(); least->level_db < into_db) {
            *least = {next, into_db};
        }
    }
    return sends;
}

void RoomField::addWindow(const Moment& moment, std::uint32_t hole, double share, const Screen& screen, const Scratch& scratch,
                          RoomHeard& heard) const
{
    const RoomMap::Hole& window = map_->holes()[hole];
    std::array<double, 8> passes = through(hole, scratch.open);
    const Vec3 x = window.along * (0.7 * window.halfWidth_m);
    const Vec3 z{0.0, 0.0, 0.7 * window.halfHeight_m};
    const Occluder::Source::Point points[] = {{window.centre, 1.0},
                                              {window.centre - x - z, 1.0},
                                              {window.centre + x - z, 1.0},
                                              {window.centre + x + z, 1.0},
                                              {window.centre - x + z, 1.0}};
    const Screened screened = screen(hole, {.centre = window.centre, .points = points, .clear_m = 0.3});
    double all = 0.0;
    for (std::size_t band = 0; band < passes.size(); ++band) {
        passes[band] *= powerOf(screened.loss_db[band]);
        all += passes[band] / static_cast<double>(passes.size());
    }
    const double energy = share * all;
    if (energy < leastShare) {
        return;
    }
    // In the opening itself what lies beyond surrounds already; further away it comes from there, as wide as it looks.
    const double round = surrounding(share);
    heard.surround += energy * round;
    const double from = energy * (1.0 - round);
    const Vec3 way = window.nearest(moment.ears.at) * 0.5 + window.centre * 0.5 - moment.ears.at;
    const double length = glm::length(way);
    // The mean of all directions of a cap that fills this share of the sphere: 1 - share.
    const Vec3 direction = length > 1e-6 ? way / length * (1.0 - share) : Vec3{0.0};
    const double before = heard.window;
    heard.window += from;
    if (heard.window > 0.0) {
        heard.towards = (heard.towards * before + direction * from) / heard.window;
        for (std::size_t band = 0; band < passes.size(); ++band) {
            const double kept = before * powerOf(heard.loss_db[band]) + from * passes[band] / all;
            heard.loss_db[band] = -10.0 * std::log10(std::max(kept / heard.window, 1e-9));
        }
    }
}

void RoomField::hear(const Moment& moment, const Screen& screen, Scratch& scratch, std::vector<RoomHeard>& heard) const
{
    heard.clear();
    const auto of = [&](std::uint32_t room) -> RoomHeard& {
        const auto known = std::find_if(heard.begin(), heard.end(), [&](const RoomHeard& h) { return h.room == room; });
        if (known != heard.end()) {
            return *known;
        }
        heard.push_back({.room = room});
        return heard.back();
    };
    double own = 1.0;
    map_->holesNear(moment.ears.at, scratch.room, scratch.holes);
    for (const std::uint32_t i : scratch.holes) {
        const RoomMap::Hole& hole = map_->holes()[i];
        const std::uint32_t beyond = hole.beyond(scratch.room);
        const double share = hole.share(moment.ears.at);
        if (share < leastShare) {
            continue;
        }
        own -= share * scratch.open[i];
        if (beyond != RoomMap::outside && lateEnergy_[beyond] > 0.0) {
            addWindow(moment, i, share, screen, scratch, of(beyond));
        }
    }
    if (scratch.room != RoomMap::outside && lateEnergy_[scratch.room] > 0.0) {
        of(scratch.room).surround += std::max(own, 0.0);
    }
    std::erase_if(heard, [](const RoomHeard& h) { return h.share() < leastShare; });
}

} // namespace stone
