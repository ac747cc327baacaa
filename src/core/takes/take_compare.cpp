// SPDX-License-Identifier: MPL-2.0
#include "takes/take_compare.h"

#include "project/read.h"
#include "takes/take_findings.h"
#include "takes/take_series.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace stone
{

namespace
{

/// What is softer counts as this: how much more silent silence is says nothing.
constexpr double floor_db = -60.0;

/// Levels of everything in a moment, by name of what it is of.
using Levels = std::map<std::string, double>;

struct Sum {
    double difference_db = 0.0;
    int moments = 0;
    double largest_db = 0.0;
    double at_s = 0.0;
    double inSecond_s = 0.0;
    int heardFirst = 0;
    int heardSecond = 0;
};

Levels levelsOf(const Take& take, const TakenMoment& moment, bool families)
{
    Levels levels;
    for (const TakenCopy& copy : moment.copies) {
        if (!copy.audible || copy.level_db < floor_db) {
            continue;
        }
        const TakeEmitter& emitter = take.emitters()[take.copies()[copy.copy].emitter];
        const std::string& key = families ? emitter.familyName : emitter.id.text;
        if (!key.empty()) {
            const auto [known, fresh] = levels.try_emplace(key, copy.level_db);
            if (!fresh) {
                known->second = together_db(known->second, copy.level_db);
            }
        }
    }
    return levels;
}

void add(std::map<std::string, Sum>& sums, const Levels& first, const Levels& second, double at_s, double inSecond_s)
{
    std::set<std::string> names;
    for (const Levels* levels : {&first, &second}) {
        for (const auto& [name, level] : *levels) {
            names.insert(name);
        }
    }
    for (const std::string& name : names) {
        const auto a = first.find(name);
        const auto b = second.find(name);
        const double difference_db = (b != second.end() ? b->second : floor_db) - (a != first.end() ? a->second : floor_db);
        Sum& sum = sums[name];
        sum.difference_db += difference_db;
        ++sum.moments;
        sum.heardFirst += a != first.end() ? 1 : 0;
        sum.heardSecond += b != second.end() ? 1 : 0;
        if (std::abs(difference_db) > std::abs(sum.largest_db)) {
            sum.largest_db = difference_db;
            sum.at_s = at_s;
            sum.inSecond_s = inSecond_s;
        }
    }
}

std::vector<TakeDifference> sorted(const std::map<std::string, Sum>& sums, const std::map<std::string, std::string>& names,
                                   bool emitters)
{
    std::vector<TakeDifference> all;
    for (const auto& [key, sum] : sums) {
        const auto name = names.find(key);
        all.push_back({.name = name != names.end() ? name->second : key,
                       .emitter = emitters ? EmitterId{key} : EmitterId{},
                       .mean_db = sum.difference_db / std::max(sum.moments, 1),
                       .largest_db = sum.largest_db,
                       .at_s = sum.at_s,
                       .inSecond_s = sum.inSecond_s,
                       .heardFirst_s = sum.heardFirst * takeStep_s,
                       .heardSecond_s = sum.heardSecond * takeStep_s,
                       .cameNew = sum.heardFirst == 0,
                       .wentAway = sum.heardSecond == 0});
    }
    std::stable_sort(all.begin(), all.end(), [](const TakeDifference& a, const TakeDifference& b) {
        return std::abs(a.mean_db) > std::abs(b.mean_db);
    });
    return all;
}

struct Went {
    double t_s;
    Vec3 at;
    double way_m;
};

std::vector<Went> wayGone(const Take& take)
{
    std::vector<Went> way;
    take.eachMoment([&](const TakenMoment& moment) {
        const double before_m = way.empty() ? 0.0 : way.back().way_m + glm::length(moment.feet.at - way.back().at);
        way.push_back({moment.t_s, moment.feet.at, before_m});
        return true;
    });
    return way;
}

} // namespace

TakeAlignment::Way TakeAlignment::wayOf(const Take& take)
{
    Way way;
    for (const Went& went : wayGone(take)) {
        way.emplace_back(went.t_s, went.way_m);
    }
    return way;
}

TakeAlignment::TakeAlignment(const Take& first, const Take& second)
{
    const bool oneWalk = !first.info().walkId.empty() && first.info().walkId == second.info().walkId;
    const auto a = first.momentAt(takeStep_s);
    const auto b = second.momentAt(takeStep_s);
    if (oneWalk && a && b && a->walk_s >= 0.0 && b->walk_s >= 0.0) {
        // The walk's time minus the take's is the same all along.
        offset_s_ = (a->walk_s - a->t_s) - (b->walk_s - b->t_s);
        return;
    }
    byTime_ = false;
    first_ = wayOf(first);
    second_ = wayOf(second);
}

/// The time in `to` at which as large a share of the way lies behind as in `from` at a time.
double TakeAlignment::along(const Way& from, const Way& to, double t_s)
{
    if (from.empty() || to.empty()) {
        return t_s;
    }
    const auto here = std::lower_bound(from.begin(), from.end(), std::pair(t_s, -1.0));
    const double metres = here != from.end() ? here->second : from.back().second;
    const double share = from.back().second > 0.0 ? metres / from.back().second : 0.0;
    if (from.back().second <= 0.0 || to.back().second <= 0.0) {
        // Nobody went anywhere: the share of the time.
        const double whole_s = std::max(from.back().first, 1e-9);
        return t_s / whole_s * to.back().first;
    }
    const double wanted = share * to.back().second;
    const auto there =
        std::lower_bound(to.begin(), to.end(), wanted, [](const auto& point, double way) { return point.second < way; });
    return there != to.end() ? there->first : to.back().first;
}

double TakeAlignment::inSecond_s(double first_s) const
{
    return byTime_ ? first_s + offset_s_ : along(first_, second_, first_s);
}

double TakeAlignment::inFirst_s(double second_s) const
{
    return byTime_ ? second_s - offset_s_ : along(second_, first_, second_s);
}

TakeTotals totalsOf(const Take& take)
{
    TakeTotals totals;
    totals.seconds = take.seconds();
    totals.integrated_lufs = take.info().integrated_lufs;
    totals.truePeak_db = take.info().truePeak_db;
    std::size_t moments = 0;
    std::optional<Vec3> before;
    std::set<std::uint32_t> out;
    JumpCounter jumps;
    take.eachMoment([&](const TakenMoment& moment) {
        totals.way_m += before ? glm::length(moment.feet.at - *before) : 0.0;
        before = moment.feet.at;
        totals.voicesMost = std::max(totals.voicesMost, static_cast<double>(moment.voices));
        totals.voicesMean += moment.voices;
        std::set<std::uint32_t> now;
        for (const TakenCopy& copy : moment.copies) {
            if (copy.gaveWay) {
                now.insert(copy.copy);
                totals.gaveWay += out.contains(copy.copy) ? 0 : 1;
            }
        }
        out = std::move(now);
        jumps.add(moment);
        ++moments;
        return true;
    });
    totals.jumps = jumps.count();
    totals.voicesMean /= static_cast<double>(std::max<std::size_t>(moments, 1));
    double span_s = 0.0;
    for (const TakenCost& cost : take.costs()) {
        const double share_pct = cost.costs.span_s > 0.0 ? 100.0 * cost.costs.total_s() / cost.costs.span_s : 0.0;
        totals.cpu_pct += cost.costs.total_s() * 100.0;
        totals.cpuMost_pct = std::max(totals.cpuMost_pct, share_pct);
        span_s += cost.costs.span_s;
    }
    totals.cpu_pct = span_s > 0.0 ? totals.cpu_pct / span_s : 0.0;
    for (const TakeEvent& event : take.events()) {
        totals.bumps += event.kind == TakeEvent::Kind::bump ? 1 : 0;
        totals.falls += event.kind == TakeEvent::Kind::fall ? 1 : 0;
    }
    return totals;
}

namespace
{

TakeStretch::Of partOf(const Take& take, const Went& from, const Went& to)
{
    TakeStretch::Of part{from.t_s, to.t_s, to.way_m - from.way_m, 0, 0};
    for (const TakeEvent& event : take.events()) {
        const bool within = event.t_s >= from.t_s && event.t_s < to.t_s;
        part.bumps += within && event.kind == TakeEvent::Kind::bump ? 1 : 0;
        part.falls += within && event.kind == TakeEvent::Kind::fall ? 1 : 0;
    }
    return part;
}

} // namespace

std::vector<TakeStretch> stretchesOf(const Take& first, const Take& second, std::size_t parts)
{
    constexpr double there_m = 2.0;
    const std::vector<Went> a = wayGone(first);
    const std::vector<Went> b = wayGone(second);
    std::vector<TakeStretch> stretches;
    if (a.empty() || b.empty() || a.back().way_m <= 0.0) {
        return stretches;
    }
    std::size_t fromA = 0;
    std::size_t fromB = 0;
    for (std::size_t part = 1; part <= parts; ++part) {
        const double wanted_m = a.back().way_m * static_cast<double>(part) / static_cast<double>(parts);
        const auto reached = std::lower_bound(a.begin(), a.end(), wanted_m - 1e-9,
                                              [](const Went& went, double way_m) { return went.way_m < way_m; });
        const std::size_t toA = part == parts ? a.size() - 1 : static_cast<std::size_t>(reached - a.begin());
        std::size_t toB = fromB;
        double closest_m = std::numeric_limits<double>::infinity();
        for (std::size_t i = fromB; i < b.size(); ++i) {
            const double off_m = glm::length(b[i].at - a[toA].at);
            if (off_m < closest_m) {
                closest_m = off_m;
                toB = i;
            } else if (closest_m < there_m && off_m > closest_m + there_m) {
                break; // it has been there, and goes on
            }
        }
        toB = part == parts ? b.size() - 1 : toB;
        stretches.push_back({a[toA].at, partOf(first, a[fromA], a[toA]), partOf(second, b[fromB], b[toB])});
        fromA = toA;
        fromB = toB;
    }
    return stretches;
}

TakeComparison compareTakes(const Take& first, const Take& second, const std::function<bool(double)>& progress)
{
    TakeComparison comparison;
    const TakeAlignment alignment(first, second);
    comparison.byTime = alignment.byTime();
    if (!first.documents().empty() && !second.documents().empty()) {
        const auto last = [](const Take& take) {
            return readProjectText(take.documentText(take.documents().size() - 1), take.path().string()).project;
        };
        comparison.changed = differences(last(first), last(second));
    }
    comparison.first = totalsOf(first);
    comparison.second = totalsOf(second);
    if (!comparison.byTime) {
        comparison.stretches = stretchesOf(first, second);
    }
    std::map<std::string, std::string> names;
    for (const Take* take : {&first, &second}) {
        for (const TakeEmitter& emitter : take->emitters()) {
            names[emitter.id.text] = emitter.name;
        }
    }
    std::map<std::string, Sum> emitters;
    std::map<std::string, Sum> families;
    bool stopped = false;
    first.eachMoment([&](const TakenMoment& moment) {
        const double there_s = alignment.inSecond_s(moment.t_s);
        const auto other = there_s >= -takeStep_s && there_s <= second.seconds() + takeStep_s
                               ? second.momentAt(there_s + takeStep_s / 2.0)
                               : std::nullopt;
        if (other) {
            add(emitters, levelsOf(first, moment, false), levelsOf(second, *other, false), moment.t_s, other->t_s);
            add(families, levelsOf(first, moment, true), levelsOf(second, *other, true), moment.t_s, other->t_s);
        }
        stopped = progress && !progress(moment.t_s / std::max(first.seconds(), 1e-9));
        return !stopped;
    });
    if (stopped) {
        return {};
    }
    comparison.emitters = sorted(emitters, names, true);
    comparison.families = sorted(families, {}, false);
    return comparison;
}

} // namespace stone
