// SPDX-License-Identifier: MPL-2.0
#include "analysis/crowd_findings.h"

#include "analysis/looped.h"
#include "analysis/remedies.h"
#include "analysis/words.h"
#include "project/edit.h"

#include <algorithm>
#include <map>

namespace stone
{

namespace
{

/// So many at once are a heap that nobody has asked for.
constexpr int heap = 12;
/// With fewer emitters all of them may well be vital.
constexpr std::size_t fewEmitters = 4;
constexpr int usualLimit = 4;

bool goesOn(const Project& project, const Emitter& emitter)
{
    return looped(project, emitter) && !givesShots(emitter.kind);
}

/// How many copies of its sound an emitter may have going at once, where that is without a limit: 0 when it is bounded.
int mayPileUp(const Project& project, const Emitter& emitter)
{
    const Sound* sound = project.sounds.find(emitter.sound);
    const Family* family = project.families.find(emitter.family);
    const bool limited = sound == nullptr || sound->limit.atOnce > 0 || (family != nullptr && family->limit.atOnce > 0);
    if (limited || emitter.muted) {
        return 0;
    }
    if (emitter.kind == EmitterKind::sprinkle) {
        return emitter.sprinkling.atOnce;
    }
    const auto again = [](const Trigger& trigger) { return trigger.cause != Cause::level; };
    const Starting& starting = emitter.starting;
    const bool piles = starting.second == SecondStart::another && !starting.once &&
                       std::any_of(starting.starts.begin(), starting.starts.end(), again);
    return piles ? heap : 0;
}

class Crowds
{
public:
    Crowds(const Project& project, const Level& level, std::vector<Finding>& found)
        : project_(project), level_(level), found_(found)
    {
    }

    void run()
    {
        lookForHeaps();
        lookForSilenced();
        lookAtHoldOffs();
        lookAtVital();
    }

private:
    Finding& add(const char* code, Finding::Severity severity, const std::string& what, const std::string& where,
                 const std::string& fix)
    {
        found_.push_back({.code = code, .severity = severity, .what = what, .where = where, .fix = fix, .level = level_.id});
        return found_.back();
    }

    static Remedy onSound(const std::string& label, const SoundId& id, std::function<void(Sound&)> change)
    {
        return onThing<Sound>(label, &Project::sounds, id, std::move(change));
    }

    /// Sounds of which more and more may sound together.
    void lookForHeaps()
    {
        std::map<SoundId, std::pair<int, const Emitter*>> heaps;
        for (const auto& emitter : level_.emitters) {
            if (const int most = mayPileUp(project_, *emitter); most > 0) {
                auto& [count, first] = heaps[emitter->sound];
                count += most;
                first = first != nullptr ? first : emitter.get();
            }
        }
        for (const auto& [id, heaped] : heaps) {
            if (heaped.first < heap) {
                continue;
            }
            const Sound& sound = *project_.sounds.find(id);
            Finding& finding = add("piles-up", Finding::Severity::note,
                                   quoted(sound.name) + " may sound " + std::to_string(heaped.first) +
                                       " times and more at once, and has no limit",
                                   "sound " + quoted(sound.name), "give it a limit: how many at once");
            finding.emitter = heaped.second->id;
            finding.sound = id;
            finding.remedies = {onSound(std::to_string(usualLimit) + " at once, the quietest gives way", id,
                                        [](Sound& s) { s.limit.atOnce = usualLimit; })};
        }
    }

    /// Limits below the number of those that are everywhere and never end.
    void lookForSilenced()
    {
        std::map<SoundId, int> bySound;
        std::map<FamilyId, int> byFamily;
        int all = 0;
        for (const auto& emitter : level_.emitters) {
            const bool always = emitter->kind == EmitterKind::bed && emitter->zone.empty() && !emitter->muted &&
                                goesOn(project_, *emitter) && emitter->starting == Starting{} && emitter->lanes.empty();
            if (always) {
                ++bySound[emitter->sound];
                ++byFamily[emitter->family];
                ++all;
            }
        }
        const auto say = [&](const std::string& whose, int limit, int there) -> Finding& {
            return add("always-silenced", Finding::Severity::warning,
                       "the limit of " + whose + " is " + std::to_string(limit) + ", and " + std::to_string(there) +
                           " beds are everywhere all the time: somebody is always silent",
                       whose, "raise the limit, or take one of them out");
        };
        for (const auto& one : bySound) {
            const Sound* sound = project_.sounds.find(one.first);
            const int count = one.second;
            if (sound != nullptr && sound->limit.atOnce > 0 && !sound->limit.eachEmitter && count > sound->limit.atOnce) {
                say("the sound " + quoted(sound->name), sound->limit.atOnce, count).remedies = {
                    onSound("Raise it to " + std::to_string(count), sound->id, [count](Sound& s) { s.limit.atOnce = count; })};
            }
        }
        for (const auto& one : byFamily) {
            const Family* family = project_.families.find(one.first);
            const int count = one.second;
            if (family != nullptr && family->limit.atOnce > 0 && count > family->limit.atOnce) {
                say("the family " + quoted(family->name), family->limit.atOnce, count).remedies = {
                    onThing<Family>("Raise it to " + std::to_string(count), &Project::families, family->id,
                                    [count](Family& f) { f.limit.atOnce = count; })};
            }
        }
        if (all > project_.voices) {
            say("the level " + quoted(level_.name), project_.voices, all).remedies = {
                {"Raise it to " + std::to_string(all), [all](Project project) {
                     project.voices = all;
                     return project;
                 }}};
        }
    }

    /// A sprinkle that is asked for more often than its sound's hold-off lets through.
    void lookAtHoldOffs()
    {
        for (const auto& emitter : level_.emitters) {
            const Sound* sound = project_.sounds.find(emitter->sound);
            if (sound == nullptr || sound->limit.holdOff_s <= 0.0 || emitter->kind != EmitterKind::sprinkle) {
                continue;
            }
            const Sprinkling& how = emitter->sprinkling;
            if (sound->limit.holdOff_s <= how.most_s || how.waitsForTail) {
                continue;
            }
            Finding& finding = add("hold-off-swallows", Finding::Severity::warning,
                                   quoted(emitter->name) + " starts every " + number("%.3g", how.least_s) + " to " +
                                       number("%.3g s", how.most_s) + ", and the hold-off of its sound is " +
                                       number("%.3g s", sound->limit.holdOff_s) + ": most of its starts are never heard",
                                   "emitter " + quoted(emitter->name), "shorten the hold-off, or let it fall less often");
            finding.emitter = emitter->id;
            finding.sound = sound->id;
            finding.remedies = {onSound("Shorten the hold-off to " + number("%.3g s", how.least_s), sound->id,
                                        [least_s = how.least_s](Sound& s) { s.limit.holdOff_s = least_s; })};
        }
    }

    void lookAtVital()
    {
        const auto vital =
            static_cast<std::size_t>(std::count_if(level_.emitters.begin(), level_.emitters.end(), [this](const auto& e) {
                return priorityOf(project_, *e) == Priority::vital;
            }));
        if (vital > fewEmitters && 2 * vital > level_.emitters.size()) {
            add("all-vital", Finding::Severity::warning,
                std::to_string(vital) + " of " + std::to_string(level_.emitters.size()) +
                    " emitters are vital: these never give way, so nothing is left to choose",
                "level " + quoted(level_.name), "keep vital for what a player must never miss");
        }
    }

    const Project& project_;
    const Level& level_;
    std::vector<Finding>& found_;
};

} // namespace

void findInCrowds(const Project& project, const Level& level, std::vector<Finding>& found)
{
    Crowds(project, level, found).run();
}

} // namespace stone
