// SPDX-License-Identifier: MPL-2.0
#include "dsp/decibel.h"
#include "hearing/model.h"

#include <algorithm>
#include <cmath>
#include <map>

/// Limits on copies: which of them a start is under, and what it means for what is heard.
namespace stone
{

class HearingModel::LimitCount
{
public:
    explicit LimitCount(const HearingModel& model) : model_(model), copies_(model.limits_.size(), 0) {}

    void add(std::uint32_t emitter, std::uint32_t playable)
    {
        for (const std::uint32_t limit : {model_.soundLimits_[playable], model_.sources_[emitter].familyLimit, 0U}) {
            if (limit != Copy::unlimited) {
                const Limit& of = model_.limits_[limit];
                const int room = of.holdOff_s > 0.0 ? 1 : of.atOnce > 0 ? of.atOnce : std::numeric_limits<int>::max();
                passed_ = passed_ || ++copies_[limit] > room;
            }
        }
    }
    bool passed() const { return passed_; }

private:
    const HearingModel& model_;
    std::vector<int> copies_;
    bool passed_ = false;
};

void HearingModel::listLimits()
{
    const Project& all = project();
    limits_.push_back({.atOnce = all.voices, .givesWay = all.voicesGiveWay, .holdOff_s = all.voicesHoldOff_s});
    const auto numberOf = [this](const Limit& limit) {
        if (!limit.any()) {
            return Copy::unlimited;
        }
        limits_.push_back(limit);
        return static_cast<std::uint32_t>(limits_.size() - 1);
    };
    // A sound that is looped here and not there is one sound.
    std::map<SoundId, std::uint32_t> sounds;
    soundLimits_.reserve(world_->playables().size());
    for (const Playable& playable : world_->playables()) {
        const auto [known, fresh] = sounds.try_emplace(playable.sound->id, Copy::unlimited);
        if (fresh) {
            known->second = numberOf(playable.sound->limit);
        }
        soundLimits_.push_back(known->second);
    }
    std::map<const Family*, std::uint32_t> families;
    for (Source& source : sources_) {
        if (source.family == nullptr) {
            continue;
        }
        const auto [known, fresh] = families.try_emplace(source.family, Copy::unlimited);
        if (fresh) {
            known->second = numberOf(source.family->limit);
        }
        source.familyLimit = known->second;
    }
    // How many copies there can be at most, where there is a most.
    int most = 0;
    for (const Source& source : sources_) {
        const Emitter& emitter = *source.emitter;
        const bool again = emitter.starting.second == SecondStart::another;
        constexpr int mostSteps = 8; // and beats: of those that are still heard as others come
        most += again                                   ? all.voices + 1
                : emitter.kind == EmitterKind::sprinkle ? 2 * emitter.sprinkling.atOnce
                : isOfCharacter(emitter.kind)           ? mostSteps
                                                        : 2;
        most = std::min(most, all.voices + 1);
    }
    const auto bursts = [](const auto& walk) {
        return std::any_of(walk->events.begin(), walk->events.end(),
                           [](const WalkEvent& event) { return event.kind == WalkEvent::Kind::burst; });
    };
    mayCrowd_ = limits_.size() > 1 || all.voicesHoldOff_s > 0.0 || most > all.voices ||
                std::any_of(level().walks.begin(), level().walks.end(), bursts);
    LimitCount forEver(*this);
    for (std::uint32_t i = 0; i < sources_.size(); ++i) {
        const Start& start = world_->simpleStart(i);
        if (world_->simple(i) && start.playable != Start::nothing && !std::isfinite(start.ends_s)) {
            forEver.add(i, start.playable);
        }
    }
    mayCrowdForEver_ = forEver.passed();
}

bool HearingModel::crowded(const Moment& moment, std::span<const std::uint32_t> near) const
{
    if (!mayCrowd_) {
        return false;
    }
    LimitCount count(*this);
    const auto add = [&](std::uint32_t index, const Start& start) {
        if (counts(moment, start)) {
            count.add(index, start.playable);
        }
    };
    for (const std::uint32_t index : near) {
        if (world_->simple(index)) {
            add(index, world_->simpleStart(index));
        }
    }
    if (moment.state != nullptr) {
        for (const Start& start : moment.state->starts) {
            add(start.emitter, start);
        }
    }
    return count.passed();
}

bool HearingModel::counts(const Moment& moment, const Start& start)
{
    if (start.playable == Start::nothing) {
        return false;
    }
    // When all of time is asked for, only what goes on for ever is there together.
    if (moment.when.always()) {
        return !std::isfinite(start.ends_s) && !std::isfinite(start.stopped_s);
    }
    // What fades out makes room already.
    return start.stopped_s > moment.when.to_s;
}

void HearingModel::letThrough(const Moment& moment, std::vector<Heard>& heard, HearScratch& scratch) const
{
    scratch.copies.clear();
    scratch.copiesOf.clear();
    const double now_s = moment.when.to_s;
    for (std::uint32_t i = 0; i < heard.size(); ++i) {
        const Heard& one = heard[i];
        const Start& start = one.start;
        if (!one.audible || !counts(moment, start)) {
            continue;
        }
        const Source& source = sources_[one.index];
        scratch.copiesOf.push_back(i);
        scratch.copies.push_back({.key = keyOf(start),
                                  .emitter = one.index,
                                  .began_s = start.began_s,
                                  .ends_s = start.ends_s,
                                  .vital = source.priority == Priority::vital,
                                  .grade = static_cast<double>(source.priority) + one.values.priority,
                                  .level_db = std::max(one.level_db, one.reverb_db),
                                  .distance_m = one.bearing.distance_m,
                                  .limits = {soundLimits_[start.playable], source.familyLimit, 0}});
    }
    const bool listens = scratch.memory && scratch.memory->paced();
    if (!listens) {
        scratch.justNow.forget();
    }
    GiveWay& giveWay = listens ? scratch.memory->giveWay : scratch.justNow;
    giveWay.decide(now_s, scratch.copies, limits_, scratch.verdicts);
    for (std::size_t i = 0; i < scratch.copies.size(); ++i) {
        if (scratch.verdicts[i].sounds) {
            continue;
        }
        Heard& one = heard[scratch.copiesOf[i]];
        one.gaveWay = scratch.verdicts[i].why;
        one.terms.add(TermKind::gaveWay, silence_db);
        one.level_db = one.terms.total();
        one.audible = false;
        one.given_db = -200.0;
        one.sends = {};
        one.reverb_db = -200.0;
    }
}

} // namespace stone
