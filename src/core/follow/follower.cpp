// SPDX-License-Identifier: MPL-2.0
#include "follow/follower.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>
#include <utility>

namespace stone
{

namespace
{

/// A time tag further off than this is somebody's wrong clock.
constexpr double honoured_s = 1.0;
/// Further from where it should be its own clock is set anew; nearer it is slowed or hurried by no more than can be heard.
constexpr double astray_s = 0.1;
constexpr double steering = 0.02;
constexpr double steepest = 0.02;
constexpr double second_s = 1.0;

double steadyNow_s()
{
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

double wallNow_s()
{
    return std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count();
}

/// By name, and by id where no name is the same.
template <class List> auto namesOf(const List& list)
{
    std::map<std::string, std::decay_t<decltype((*list.begin())->id)>> names;
    for (const auto& thing : list) {
        names.emplace(thing->name, thing->id);
    }
    for (const auto& thing : list) {
        names.emplace(thing->id.text, thing->id);
    }
    return names;
}

} // namespace

Follower::Follower(std::function<double()> now_s, std::function<double()> wall_s)
    : now_s_(std::move(now_s)), wall_s_(std::move(wall_s))
{
}

Follower::Follower() : Follower(steadyNow_s, wallNow_s)
{
}

void Follower::setDocument(const std::shared_ptr<const Project>& project, const LevelId& level)
{
    const std::lock_guard lock(mutex_);
    const Level& now = *project->levels.find(level);
    signals_ = namesOf(project->signalNames);
    values_ = namesOf(project->gameValues);
    patterns_ = namesOf(project->patterns);
    levels_ = namesOf(project->levels);
    openings_ = namesOf(now.openings);
    placeable_ = namesToPlace(now);
}

void Follower::unknown(const char* kind, const std::string& name)
{
    const std::pair key(std::string(kind), name);
    if (report_.unknown.size() < mostUnknown || report_.unknown.contains(key)) {
        ++report_.unknown[key];
    }
}

template <class Id>
std::optional<Id> Follower::known(const std::map<std::string, Id>& names, const char* kind, const std::string& name)
{
    if (const auto found = names.find(name); found != names.end()) {
        return found->second;
    }
    unknown(kind, name);
    return {};
}

void Follower::happen(Happening happening, double time_s)
{
    if (waiting_.size() >= mostWaiting) {
        ++report_.lost;
        return;
    }
    const auto after =
        std::find_if(waiting_.rbegin(), waiting_.rend(), [&](const Waiting& w) { return w.time_s <= time_s; }).base();
    waiting_.insert(after, {time_s, std::move(happening)});
}

void Follower::pose(ToldTrack& track, const Pose& pose, double time_s)
{
    const double now_s = now_s_();
    if (lastPose_s_) {
        second_.longestGap_s = std::max(second_.longestGap_s, now_s - *lastPose_s_);
    }
    lastPose_s_ = now_s;
    track.add(time_s, pose);
}

void Follower::take(const GameWord& word, double time_s)
{
    switch (word.kind) {
    case GameWord::Kind::ears: pose(ears_, word.pose, time_s); break;
    case GameWord::Kind::character: pose(character_, word.pose, time_s); break;
    case GameWord::Kind::camera: pose(camera_, word.pose, time_s); break;
    case GameWord::Kind::thing:
    case GameWord::Kind::appear: {
        const bool appears = word.kind == GameWord::Kind::appear;
        const auto pattern = appears ? known(patterns_, "pattern", word.of) : std::nullopt;
        if (appears && !pattern) {
            break;
        }
        if (!appears && !things_.appeared.contains(word.name) && !placeable_.contains(word.name)) {
            unknown("thing", word.name);
            break;
        }
        if (!tracks_.contains(word.name) && tracks_.size() >= mostThings) {
            ++report_.lost;
            break;
        }
        if (appears) {
            const auto [known, added] = things_.appeared.try_emplace(word.name, *pattern);
            const bool other = std::exchange(known->second, *pattern) != *pattern;
            thingsSerial_ += added || other ? 1 : 0;
            tracks_.erase(word.name); // it is another one now
        } else {
            thingsSerial_ += things_.placed.insert(word.name).second ? 1 : 0;
        }
        pose(tracks_[word.name].track, word.pose, time_s);
        break;
    }
    case GameWord::Kind::gone: {
        const bool was = things_.appeared.erase(word.name) + things_.placed.erase(word.name) > 0;
        tracks_.erase(word.name);
        if (was) {
            ++thingsSerial_;
        } else {
            unknown("thing", word.name);
        }
        break;
    }
    case GameWord::Kind::signal:
        if (const auto signal = known(signals_, "signal", word.name)) {
            happen({.cause = Cause::signal, .signal = *signal}, time_s);
        }
        break;
    case GameWord::Kind::value:
        if (const auto value = known(values_, "value", word.name)) {
            happen({.value = std::pair(*value, word.number)}, time_s);
        }
        break;
    case GameWord::Kind::opening:
        if (const auto opening = known(openings_, "opening", word.name)) {
            happen({.opening = std::pair(*opening, word.number)}, time_s);
        }
        break;
    case GameWord::Kind::level:
        if (const auto level = known(levels_, "level", word.name)) {
            level_ = *level;
        }
        break;
    case GameWord::Kind::step: happen({.step = word.name}, time_s); break;
    case GameWord::Kind::act: happen({.cause = word.act}, time_s); break;
    case GameWord::Kind::hello:
    case GameWord::Kind::bye: break;
    }
}

double Follower::timeOf(const OscMessage& message, double now_s)
{
    if (!message.time_s) {
        return now_s;
    }
    const double in_s = *message.time_s - wall_s_();
    if (std::abs(in_s) > honoured_s) {
        return now_s;
    }
    second_.late_s = std::max(second_.late_s, -in_s);
    return now_s + in_s;
}

void Follower::countSecond(double now_s)
{
    if (now_s - second_.began_s >= second_s) {
        before_ = now_s - second_.began_s < 2.0 * second_s ? second_ : Second{};
        second_ = Second{now_s};
    }
}

std::vector<GameWord> Follower::receive(std::span<const std::byte> bytes)
{
    const OscPacket packet = readOsc(bytes);
    std::vector<GameWord> connecting;
    const std::lock_guard lock(mutex_);
    const double now_s = now_s_();
    countSecond(now_s);
    ++report_.packets;
    lastPacket_s_ = now_s;
    if (packet.unreadable > 0) {
        report_.misunderstood += static_cast<std::uint64_t>(packet.unreadable);
        report_.lastMisunderstood = "a packet that is no OSC 1.0, or has values of another kind than numbers and words";
    }
    for (const OscMessage& message : packet.messages) {
        ++report_.messages;
        ++second_.messages;
        const auto word = gameWordOf(message);
        if (const auto* wrong = std::get_if<std::string>(&word)) {
            ++report_.misunderstood;
            report_.lastMisunderstood = *wrong;
            continue;
        }
        const auto& understood = std::get<GameWord>(word);
        if (understood.kind == GameWord::Kind::hello || understood.kind == GameWord::Kind::bye) {
            connecting.push_back(understood);
        }
        take(understood, timeOf(message, now_s));
    }
    return connecting;
}

Leader::Step Follower::step(double seconds)
{
    const std::lock_guard lock(mutex_);
    const double due_s = now_s_() - behind_s;
    const double next_s = played_s_ ? *played_s_ + seconds : due_s;
    const double astray = due_s - next_s;
    // Steps are decided several at a time: its own clock goes on evenly and is only led after the other one.
    const double to_s =
        std::abs(astray) > astray_s ? due_s : next_s + std::clamp(astray * steering, -steepest * seconds, steepest * seconds);
    played_s_ = std::max(to_s, played_s_.value_or(to_s));

    Step step;
    if (const auto where = character_.at(*played_s_)) {
        step.feet = where->pose;
        step.jumped = where->leapt;
        report_.character = where->pose;
    }
    if (const auto where = ears_.at(*played_s_)) {
        step.ears = where->pose;
        step.jumped = step.jumped || where->leapt;
    }
    if (const auto where = camera_.at(*played_s_)) {
        step.camera = where->pose;
        step.jumped = step.jumped || where->leapt;
    }
    for (auto& [name, thing] : tracks_) {
        // What stands was said already.
        if (const auto where = thing.track.at(*played_s_); where && thing.said != where->pose) {
            thing.said = where->pose;
            step.happenings.push_back({.thing = std::pair(name, where->pose)});
        }
    }
    const auto later = std::find_if(waiting_.begin(), waiting_.end(), [&](const Waiting& w) { return w.time_s > *played_s_; });
    std::transform(waiting_.begin(), later, std::back_inserter(step.happenings),
                   [](Waiting& waiting) { return std::move(waiting.happening); });
    waiting_.erase(waiting_.begin(), later);
    return step;
}

std::pair<std::uint64_t, GameThings> Follower::things() const
{
    const std::lock_guard lock(mutex_);
    return {thingsSerial_, things_};
}

std::uint64_t Follower::thingsSerial() const
{
    const std::lock_guard lock(mutex_);
    return thingsSerial_;
}

LevelId Follower::level() const
{
    const std::lock_guard lock(mutex_);
    return level_;
}

Follower::Report Follower::report() const
{
    const std::lock_guard lock(mutex_);
    Report report = report_;
    const double now_s = now_s_();
    const bool recent = now_s - second_.began_s < 2.0 * second_s;
    report.perSecond = recent ? static_cast<double>(before_.messages) : 0.0;
    report.longestGap_s = std::max(second_.longestGap_s, recent ? before_.longestGap_s : 0.0);
    report.late_s = std::max(second_.late_s, recent ? before_.late_s : 0.0);
    report.silentFor_s = lastPacket_s_ ? now_s - *lastPacket_s_ : std::numeric_limits<double>::infinity();
    report.things = tracks_.size();
    return report;
}

} // namespace stone
