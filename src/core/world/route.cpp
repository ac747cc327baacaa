// SPDX-License-Identifier: MPL-2.0
#include "world/route.h"

#include "geometry/pose.h"
#include "level/ground.h"
#include "project/picker.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Turning into the next piece of a way begins and ends so far from the corner.
constexpr double turn_m = 0.4;
/// What sounds only on the way comes and goes in this time.
constexpr double easeSound_s = 0.25;
/// Rounds take at least this, whatever the numbers say.
constexpr double leastRound_s = 0.05;

/// How far of a leg is gone after a share of its time: even acceleration over the ease at each end.
double gone(double t, double ease)
{
    if (ease <= 0.0) {
        return t;
    }
    if (t < ease) {
        return t * t / (2.0 * ease * (1.0 - ease));
    }
    if (t > 1.0 - ease) {
        return 1.0 - gone(1.0 - t, ease);
    }
    return (t - ease / 2.0) / (1.0 - ease);
}

double pace(double t, double ease)
{
    const double ramp = ease > 0.0 ? std::min({t / ease, (1.0 - t) / ease, 1.0}) : 1.0;
    return ramp / (1.0 - ease);
}

} // namespace

std::vector<Leg> legsOf(const Roaming& roaming)
{
    std::vector<Leg> legs;
    const std::size_t n = roaming.stops.size();
    for (std::size_t from = 0; from < n; ++from) {
        for (std::size_t to = 0; to < n; ++to) {
            // Shuffled ones go from anywhere to anywhere; the others only between neighbours and back to the start.
            const bool used = roaming.order == Roaming::Order::shuffled || to == from + 1 || from == to + 1 || to == 0;
            if (used && from != to) {
                legs.emplace_back(from, to);
            }
        }
    }
    return legs;
}

Route::Route(const Roaming& roaming, std::uint64_t seed, std::string id, const Ground* ground, Ways ways)
    : stops_(roaming.stops), how_(roaming), seed_(seed), id_(std::move(id))
{
    ways_.resize(stops_.size() * stops_.size());
    for (const auto& [from, to] : legsOf(roaming)) {
        const Vec3 a = stops_[from].at;
        const Vec3 b = stops_[to].at;
        Way& way = ways_[from * stops_.size() + to];
        if (how_.aroundWalls && ground != nullptr) {
            if (auto found = ways == Ways::find ? std::optional(ground->way(a, b)) : ground->foundWay(a, b)) {
                way.corners = *std::move(found);
                if (way.corners.empty()) {
                    blocked_.emplace_back(from, to);
                }
            } else {
                waysMissing_ = true;
            }
        }
        if (way.corners.empty()) {
            way.corners = {a, b};
        }
        way.lengths.push_back(0.0);
        for (std::size_t i = 1; i < way.corners.size(); ++i) {
            way.lengths.push_back(way.lengths.back() + glm::length(way.corners[i] - way.corners[i - 1]));
        }
    }
}

const Route::Way& Route::wayOf(std::size_t from, std::size_t to) const
{
    return ways_[from * stops_.size() + to];
}

double Route::firstHeading(const Way& way)
{
    return headingAlong(way.corners[1] - way.corners[0]);
}

double Route::wait_s(std::size_t stop) const
{
    return stops_[stop].wait_s.value_or(how_.wait_s);
}

/// The stops of the round after those that are known, the one at which it begins first.
std::vector<std::size_t> Route::nextOrder() const
{
    const std::size_t n = stops_.size();
    std::vector<std::size_t> order;
    if (how_.order == Roaming::Order::shuffled) {
        // A round's stops are those of a shuffle; it begins where the one before ended, the first at the first stop.
        if (!picker_) {
            picker_.emplace(seed_, id_, "stops", Order::shuffled, n);
        }
        order.push_back(coming_.empty() ? 0 : coming_.back());
        for (std::size_t i = 0; i < n; ++i) {
            const std::size_t next = picker_->next();
            if (next != order.back()) {
                order.push_back(next);
            }
        }
        return order;
    }
    for (std::size_t i = 0; i < n; ++i) {
        order.push_back(i);
    }
    if (how_.order == Roaming::Order::thereAndBack) {
        for (std::size_t i = n; i-- > 1;) {
            order.push_back(i - 1);
        }
    } else if (how_.roundEnd == Roaming::RoundEnd::travelsBack && n > 1) {
        order.push_back(0);
    }
    return order;
}

Route::Round Route::makeRound(const std::vector<std::size_t>& order, bool setsOff) const
{
    Round round;
    round.first = order.front();
    double time_s = setsOff ? wait_s(order.front()) : 0.0;
    for (std::size_t i = 1; i < order.size(); ++i) {
        const Way& way = wayOf(order[i - 1], order[i]);
        const double length_m = way.lengths.back();
        const double usual_s = how_.byTime ? how_.leg_s : length_m / (how_.speed_m_s * (1.0 - how_.ease));
        const double takes_s = stops_[order[i]].leg_s.value_or(usual_s);
        const Vec3 end = way.corners.back() - way.corners[way.corners.size() - 2];
        round.legs.push_back({order[i - 1], order[i], time_s, time_s + takes_s, headingAlong(end), &way});
        time_s += takes_s + wait_s(order[i]);
    }
    round.length_s = std::max({time_s + how_.pause_s, how_.period_s, leastRound_s});
    return round;
}

std::pair<const Route::Round*, std::uint64_t> Route::roundAt(double time_s, double& since_s) const
{
    const std::lock_guard lock(mutex_);
    const bool alike = how_.order != Roaming::Order::shuffled;
    const auto add = [&] {
        const std::uint64_t number = rounds_.size();
        // Waiting at the first stop belongs to the arrival there, but for the very first time and after starting over.
        const bool setsOff = number == 0 || (alike && how_.roundEnd == Roaming::RoundEnd::startsOver);
        if (number == 0) {
            coming_ = nextOrder();
        }
        Round next = makeRound(coming_, setsOff);
        if (number > 0) {
            const Round& last = *rounds_.back();
            next.begins_s = last.begins_s + last.length_s;
            next.arrivalsBefore = last.arrivalsBefore + last.legs.size();
            next.headingBefore_deg = last.legs.empty() ? 0.0 : last.legs.back().heading_deg;
        }
        coming_ = nextOrder();
        next.headingAfter_deg = coming_.size() > 1 ? firstHeading(wayOf(coming_[0], coming_[1])) : 0.0;
        rounds_.push_back(std::make_unique<Round>(std::move(next)));
    };
    if (alike) {
        // The first may differ from all others by its first wait.
        while (rounds_.size() < 2) {
            add();
        }
        const Round& first = *rounds_[0];
        const Round& other = *rounds_[1];
        std::uint64_t number = 0;
        since_s = time_s;
        if (time_s >= first.length_s) {
            number = 1 + static_cast<std::uint64_t>((time_s - first.length_s) / other.length_s);
            since_s = std::max(time_s - first.length_s - static_cast<double>(number - 1) * other.length_s, 0.0);
        }
        return {number == 0 ? &first : &other, number};
    }
    while (rounds_.empty() || rounds_.back()->begins_s + rounds_.back()->length_s <= time_s) {
        add();
    }
    const auto after = std::upper_bound(rounds_.begin(), rounds_.end(), time_s,
                                        [](double t, const auto& round) { return t < round->begins_s; });
    const auto number = static_cast<std::uint64_t>(after - rounds_.begin()) - 1;
    since_s = time_s - rounds_[number]->begins_s;
    return {rounds_[number].get(), number};
}

double Route::ends_s() const
{
    if (how_.rounds == 0 || stops_.size() < 2) {
        return boundless;
    }
    double since_s = 0.0;
    double ends_s = 0.0;
    for (int i = 0; i < how_.rounds; ++i) {
        const Round& round = *roundAt(ends_s, since_s).first;
        ends_s += round.length_s;
        if (how_.order != Roaming::Order::shuffled && i == 1) {
            return ends_s + static_cast<double>(how_.rounds - 2) * round.length_s;
        }
        // A hair further, so that rounding does not keep it in this one.
        ends_s += 1e-9;
    }
    return ends_s;
}

double Route::round_s() const
{
    double since_s = 0.0;
    return stops_.empty() ? 0.0 : roundAt(0.0, since_s).first->length_s;
}

Route::Place Route::at(double time_s) const
{
    Place place;
    if (stops_.empty()) {
        return place;
    }
    place.at = stops_.front().at;
    if (stops_.size() < 2) {
        return place;
    }
    double time = std::max(time_s, 0.0);
    if (how_.rounds > 0 && time >= ends_s()) {
        place.over = true;
        // Where the last round ended, a hair before the next would begin.
        time = ends_s() - 1e-6;
    }
    double since_s = 0.0;
    const auto [round, number] = roundAt(time, since_s);
    place.round = number;
    if (round->legs.empty()) {
        place.at = stops_[round->first].at;
        place.next = round->first;
        return place;
    }
    const auto after = std::upper_bound(round->legs.begin(), round->legs.end(), since_s,
                                        [](double t, const Passage& leg) { return t < leg.departs_s; });
    const std::size_t index = after == round->legs.begin() ? 0 : static_cast<std::size_t>(after - round->legs.begin()) - 1;
    const Passage& leg = round->legs[index];
    const double takes_s = leg.arrives_s - leg.departs_s;
    const double share = takes_s > 0.0 ? std::clamp((since_s - leg.departs_s) / takes_s, 0.0, 1.0) : 1.0;
    const Way& way = *leg.way;
    const double length_m = way.lengths.back();
    const double gone_m = length_m * gone(share, how_.ease);
    const auto corner = std::upper_bound(way.lengths.begin() + 1, way.lengths.end() - 1, gone_m);
    const auto piece = static_cast<std::size_t>(corner - way.lengths.begin());
    const double piece_m = way.lengths[piece] - way.lengths[piece - 1];
    const double along = piece_m > 0.0 ? (gone_m - way.lengths[piece - 1]) / piece_m : 1.0;
    place.at = way.corners[piece - 1] + (way.corners[piece] - way.corners[piece - 1]) * along;
    const bool onTheWay = since_s >= leg.departs_s && since_s < leg.arrives_s;
    place.speed_m_s = onTheWay && takes_s > 0.0 ? length_m / takes_s * pace(share, how_.ease) : 0.0;
    if (takes_s > 0.0) {
        place.moving = std::clamp(std::min(since_s - leg.departs_s, leg.arrives_s - since_s) / easeSound_s + 1.0, 0.0, 1.0);
    }
    place.next = since_s < leg.departs_s ? leg.from : leg.to;
    if (place.over) {
        place.moving = 0.0;
        place.speed_m_s = 0.0;
    }

    // The heading of this piece, and half of the turn at either end of it.
    const auto headingOfPiece = [&](std::size_t i) { return headingAlong(way.corners[i] - way.corners[i - 1]); };
    const Round& passed = *round;
    const double begins_deg = number > 0 ? passed.headingBefore_deg : headingOfPiece(1);
    const auto lastHeading = [&](std::size_t i) { return i > 0 ? passed.legs[i - 1].heading_deg : begins_deg; };
    const double heading = headingOfPiece(piece);
    const double before = piece > 1 ? headingOfPiece(piece - 1) : lastHeading(index);
    double next = heading;
    if (piece + 1 < way.corners.size()) {
        next = headingOfPiece(piece + 1);
    } else if (index + 1 < round->legs.size()) {
        next = firstHeading(*round->legs[index + 1].way);
    } else {
        next = round->headingAfter_deg;
    }
    const double turn = std::max(std::min(turn_m, piece_m / 2.0), 1e-6);
    const double from = std::clamp(1.0 - along * piece_m / turn, 0.0, 1.0) / 2.0;
    const double to = std::clamp(1.0 - (1.0 - along) * piece_m / turn, 0.0, 1.0) / 2.0;
    // Both halves of a turn are counted from the earlier heading, so that about-turns go the same way round in both.
    place.heading_deg = heading - wrapDegrees(heading - before) * from + wrapDegrees(next - heading) * to;
    return place;
}

void Route::arrivals(double from_s, double to_s, std::vector<Arrival>& found) const
{
    found.clear();
    if (stops_.size() < 2) {
        return;
    }
    const double last_s = std::min(to_s, ends_s());
    double since_s = 0.0;
    double time_s = std::max(from_s, 0.0);
    while (time_s <= last_s) {
        const auto [round, number] = roundAt(time_s, since_s);
        const double begins_s = time_s - since_s;
        const bool alike = how_.order != Roaming::Order::shuffled;
        for (std::size_t i = 0; i < round->legs.size(); ++i) {
            const double arrives_s = begins_s + round->legs[i].arrives_s;
            if (arrives_s > from_s && arrives_s <= last_s) {
                const std::uint64_t before = alike ? number * round->legs.size() : round->arrivalsBefore;
                found.push_back({arrives_s, round->legs[i].to, before + i});
            }
        }
        time_s = begins_s + round->length_s + 1e-9;
    }
}

std::vector<std::size_t> Route::visited(double time_s) const
{
    std::vector<std::size_t> stops;
    if (stops_.size() < 2) {
        return stops;
    }
    double since_s = 0.0;
    const Round& round = *roundAt(std::max(time_s, 0.0), since_s).first;
    stops.push_back(round.first);
    for (const Passage& leg : round.legs) {
        if (leg.arrives_s <= since_s) {
            stops.push_back(leg.to);
        }
    }
    return stops;
}

std::vector<Vec3> Route::line() const
{
    std::vector<Vec3> points;
    if (stops_.size() < 2) {
        return points;
    }
    double since_s = 0.0;
    for (const Passage& leg : roundAt(0.0, since_s).first->legs) {
        points.insert(points.end(), leg.way->corners.begin(), leg.way->corners.end());
    }
    return points;
}

} // namespace stone
