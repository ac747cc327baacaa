// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/voice_history.h"

#include "hearing/reasons.h"

#include <algorithm>
#include <set>

namespace stone
{

void VoiceHistory::clear()
{
    spans_.clear();
    open_.clear();
    now_s_ = 0.0;
    tidied_s_ = 0.0;
}

/// The lowest row that nobody has who still sounds, or sleeps.
void VoiceHistory::place(Span& span) const
{
    std::set<int> sound;
    std::set<int> family;
    std::set<int> level;
    for (const auto& [key, open] : open_) {
        const auto found = spans_.find(open.number);
        if (found == spans_.end() || found->second.state != span.state) {
            continue;
        }
        const Span& other = found->second;
        level.insert(other.rows.level);
        if (other.sound == span.sound) {
            sound.insert(other.rows.sound);
        }
        if (other.family == span.family) {
            family.insert(other.rows.family);
        }
    }
    const auto free = [](const std::set<int>& taken) {
        int row = 0;
        for (const int one : taken) {
            if (one != row) {
                break;
            }
            ++row;
        }
        return row;
    };
    span.rows = {free(sound), free(family), free(level)};
}

std::uint64_t VoiceHistory::begin(State state, const HeardStep& step, const Heard& heard)
{
    const HearingModel& model = step.scene->model;
    const Emitter& emitter = *model.level().emitters[heard.index];
    Span span;
    span.state = state;
    span.emitter = emitter.id;
    span.name = QString::fromStdString(emitter.name);
    span.kind = emitter.kind;
    span.sound = model.world().playables()[heard.start.playable].sound->id;
    span.family = emitter.family;
    span.from_s = span.to_s = step.when.to_s;
    if (heard.gaveWay) {
        span.why = QString::fromStdString(silencedBy(model, heard));
        span.from_s = span.to_s = std::clamp(heard.gaveWay->since_s, now_s_, step.when.to_s);
    }
    place(span);
    spans_.emplace(next_, std::move(span));
    return next_++;
}

void VoiceHistory::forgetOld()
{
    constexpr double every_s = 1.0;
    if (now_s_ - tidied_s_ < every_s) {
        return;
    }
    tidied_s_ = now_s_;
    // What still goes on was there just now, and is not old.
    std::erase_if(spans_, [this](const auto& span) { return span.second.to_s < now_s_ - kept_s; });
}

void VoiceHistory::take(const std::shared_ptr<const HeardStep>& step)
{
    if (!step || (!spans_.empty() && step->when.to_s == now_s_)) {
        return;
    }
    const double now_s = step->when.to_s;
    if (now_s < now_s_) {
        clear();
    }
    if (scene_.lock() != step->scene) {
        // The same copies may bear other numbers: they go on under new ones.
        open_.clear();
        scene_ = step->scene;
    }
    std::unordered_map<std::uint64_t, Open> still;
    for (const Heard& heard : step->heard) {
        if (heard.start.playable == Start::nothing || (!heard.audible && !heard.gaveWay)) {
            continue;
        }
        const State state = heard.audible             ? State::sounded
                            : !heard.gaveWay->forGood ? State::asleep
                            : heard.gaveWay->sounded  ? State::dropped
                                                      : State::refused;
        const std::uint64_t key = keyOf(heard.start);
        const auto known = open_.find(key);
        if (known != open_.end() && known->second.state == state) {
            if (state == State::sounded || state == State::asleep) {
                spans_.at(known->second.number).to_s = now_s;
            }
            still.insert(*known);
            continue;
        }
        open_.erase(key);
        const Open open{begin(state, *step, heard), state};
        open_.emplace(key, open);
        still.emplace(key, open);
    }
    open_ = std::move(still);
    now_s_ = now_s;
    forgetOld();
}

} // namespace stone
