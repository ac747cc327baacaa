// SPDX-License-Identifier: MPL-2.0
#include "hearing/give_way.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace stone
{

namespace
{

/// Moments after which a copy that is not there any more is forgotten.
constexpr std::uint64_t forgetAfter = 64;

/// Names the copies that are counted together.
std::uint64_t groupOf(const Copy& copy, Crowd crowd, const Limit& limit)
{
    const std::uint64_t each = limit.eachEmitter ? copy.emitter + 1ULL : 0ULL;
    return static_cast<std::uint64_t>(copy.limits[static_cast<std::size_t>(crowd)]) << 32U | each;
}

bool isShot(const Copy& copy)
{
    return std::isfinite(copy.ends_s);
}

} // namespace

void GiveWay::forget()
{
    known_.clear();
    gone_.clear();
    lastStarts_.clear();
    last_s_ = 0.0;
}

/// Who of them may sound at all: all but those that are gone for good.
void GiveWay::meet(double now_s, std::span<const Copy> copies, std::vector<Verdict>& verdicts)
{
    const double passed_s = std::max(now_s - last_s_, 0.0);
    const double share = margins_.smoothing_s > 0.0 ? 1.0 - std::exp(-passed_s / margins_.smoothing_s) : 1.0;
    candidates_.clear();
    for (std::uint32_t i = 0; i < copies.size(); ++i) {
        const Copy& copy = copies[i];
        if (!gone_.empty()) {
            if (const auto gone = gone_.find(copy.key); gone != gone_.end()) {
                verdicts[i] = {false, gone->second.why};
                verdicts[i].why.wouldBe_db = copy.level_db;
                continue;
            }
        }
        Known& known = known_[copy.key];
        const bool fresh = known.seen == 0;
        if (fresh || known.seen + 1 != moment_) {
            known.in = false; // it was not heard in between
            known.level_db = copy.level_db;
        } else {
            known.level_db += (copy.level_db - known.level_db) * share;
        }
        known.seen = moment_;
        const bool held = known.in && known.cameBack && now_s - known.since_s < margins_.stays_s;
        const double grade = copy.grade + (known.in ? margins_.grade : 0.0);
        candidates_.push_back({.copy = i, .known = &known, .fresh = fresh, .held = held, .grade = grade});
    }
}

/// Of the one-shots that are new, those that come too soon after another.
void GiveWay::holdOff(double now_s, Crowd crowd, std::span<const Copy> copies, std::span<const Limit> limits,
                      std::vector<Verdict>& verdicts)
{
    const auto which = static_cast<std::size_t>(crowd);
    under_.clear();
    for (Candidate& candidate : candidates_) {
        const Copy& copy = copies[candidate.copy];
        const std::uint32_t limit = copy.limits[which];
        if (candidate.fresh && verdicts[candidate.copy].sounds && limit != Copy::unlimited && limits[limit].holdOff_s > 0.0 &&
            isShot(copy) && !copy.vital) {
            under_.push_back(&candidate);
        }
    }
    std::stable_sort(under_.begin(), under_.end(),
                     [&](const Candidate* a, const Candidate* b) { return copies[a->copy].began_s < copies[b->copy].began_s; });
    for (Candidate* candidate : under_) {
        const Copy& copy = copies[candidate->copy];
        const Limit& limit = limits[copy.limits[which]];
        const std::uint64_t group = groupOf(copy, crowd, limit) * crowds + which;
        const auto [last, first] = lastStarts_.try_emplace(group, LastStart{copy.key, copy.began_s, copy.emitter});
        if (first || last->second.key == copy.key) {
            continue;
        }
        // One that began before it may be met after it, by somebody who comes near.
        if (std::abs(copy.began_s - last->second.began_s) < limit.holdOff_s) {
            verdicts[candidate->copy] = {false,
                                         {.crowd = crowd,
                                          .rule = limit.givesWay,
                                          .atOnce = 0,
                                          .to = last->second.emitter,
                                          .since_s = now_s,
                                          .forGood = true,
                                          .sounded = false,
                                          .wouldBe_db = copy.level_db}};
        } else if (copy.began_s > last->second.began_s) {
            last->second = {copy.key, copy.began_s, copy.emitter};
        }
    }
}

/// Turns away as many as are too many under each limit of a crowd.
void GiveWay::thin(double now_s, Crowd crowd, std::span<const Copy> copies, std::span<const Limit> limits,
                   std::vector<Verdict>& verdicts)
{
    const auto which = static_cast<std::size_t>(crowd);
    under_.clear();
    int least = std::numeric_limits<int>::max();
    for (Candidate& candidate : candidates_) {
        const Copy& copy = copies[candidate.copy];
        const std::uint32_t number = copy.limits[which];
        if (!verdicts[candidate.copy].sounds || number == Copy::unlimited || limits[number].atOnce <= 0) {
            continue;
        }
        candidate.group = groupOf(copy, crowd, limits[number]);
        under_.push_back(&candidate);
        least = std::min(least, limits[number].atOnce);
    }
    // Mostly there is room for all.
    if (under_.size() <= static_cast<std::size_t>(least)) {
        return;
    }
    std::stable_sort(under_.begin(), under_.end(), [](const Candidate* a, const Candidate* b) { return a->group < b->group; });
    const auto better = [&](const Candidate* a, const Candidate* b) {
        const Copy& x = copies[a->copy];
        const Copy& y = copies[b->copy];
        if (x.vital != y.vital) {
            return x.vital;
        }
        if (a->grade != b->grade) {
            return a->grade > b->grade;
        }
        if (a->held != b->held) {
            return a->held;
        }
        if (a->value != b->value) {
            return a->value > b->value;
        }
        // Of equals, who started last stays; where the new one is to give way, who started first.
        const bool newest = limits[x.limits[which]].givesWay == GivesWay::newest;
        if (x.began_s != y.began_s) {
            return (x.began_s > y.began_s) != newest;
        }
        return (a->copy > b->copy) != newest;
    };
    for (auto group = under_.begin(); group != under_.end();) {
        const auto end = std::find_if(group, under_.end(), [&](const Candidate* c) { return c->group != (*group)->group; });
        const Limit& limit = limits[copies[(*group)->copy].limits[which]];
        const auto vital = std::count_if(group, end, [&](const Candidate* c) { return copies[c->copy].vital; });
        const std::ptrdiff_t most = std::max<std::ptrdiff_t>(limit.atOnce, vital);
        if (end - group > most) {
            for (auto one = group; one != end; ++one) {
                const Known& known = *(*one)->known;
                switch (limit.givesWay) {
                case GivesWay::quietest: (*one)->value = known.level_db + (known.in ? margins_.level_db : 0.0); break;
                case GivesWay::farthest:
                    (*one)->value =
                        -copies[(*one)->copy].distance_m * (known.in ? std::pow(10.0, -margins_.level_db / 20.0) : 1.0);
                    break;
                case GivesWay::oldest:
                case GivesWay::newest: (*one)->value = 0.0; break;
                }
            }
            std::sort(group, end, better);
            const auto newcomer = std::find_if(group, group + most, [](const Candidate* c) { return !c->known->in; });
            for (auto one = group + most; one != end; ++one) {
                const Copy& copy = copies[(*one)->copy];
                const Known& known = *(*one)->known;
                // Who made the difference: one that has just come, else the last one that stays.
                const auto to = known.in && newcomer != group + most ? newcomer : group + std::max<std::ptrdiff_t>(most - 1, 0);
                GaveWay why{.crowd = crowd,
                            .rule = limit.givesWay,
                            .atOnce = limit.atOnce,
                            .to = copies[(*to)->copy].emitter,
                            .since_s = now_s,
                            .forGood = isShot(copy),
                            .sounded = known.in,
                            .wouldBe_db = copy.level_db};
                if (!known.in && !(*one)->fresh && known.why.crowd == crowd && known.why.rule == limit.givesWay &&
                    known.why.atOnce == limit.atOnce) {
                    why.to = known.why.to;
                    why.since_s = known.why.since_s;
                    why.sounded = known.why.sounded;
                }
                verdicts[(*one)->copy] = {false, why};
            }
        }
        group = end;
    }
}

void GiveWay::remember(double now_s, std::span<const Copy> copies, const std::vector<Verdict>& verdicts)
{
    for (const Candidate& candidate : candidates_) {
        const Copy& copy = copies[candidate.copy];
        Known& known = *candidate.known;
        const Verdict& verdict = verdicts[candidate.copy];
        if (verdict.sounds) {
            if (!known.in) {
                known.cameBack = known.wasOut;
                known.since_s = now_s;
            }
            known.in = true;
        } else if (isShot(copy)) {
            gone_.emplace(copy.key, Gone{copy.ends_s, verdict.why});
            known_.erase(copy.key);
        } else {
            known.in = false;
            known.wasOut = true;
            known.why = verdict.why;
        }
    }
    if (moment_ % forgetAfter == 0) {
        std::erase_if(known_, [this](const auto& entry) { return entry.second.seen + forgetAfter < moment_; });
        std::erase_if(gone_, [now_s](const auto& entry) { return entry.second.ends_s < now_s; });
    }
}

void GiveWay::decide(double now_s, std::span<const Copy> copies, std::span<const Limit> limits, std::vector<Verdict>& verdicts)
{
    ++moment_;
    verdicts.assign(copies.size(), {});
    meet(now_s, copies, verdicts);
    for (const Crowd crowd : {Crowd::sound, Crowd::family, Crowd::level}) {
        holdOff(now_s, crowd, copies, limits, verdicts);
        thin(now_s, crowd, copies, limits, verdicts);
    }
    remember(now_s, copies, verdicts);
    last_s_ = now_s;
}

} // namespace stone
