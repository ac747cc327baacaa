// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/playback.h"

#include "app/session/ear_test.h"
#include "app/session/take_desk.h"
#include "engine/loudest.h"

#include <algorithm>
#include <cmath>

/// What is listened to beside the level as it is, and through what.
namespace stone
{

void Playback::setOtherwise(Otherwise otherwise)
{
    if (otherwise != otherwise_) {
        otherwise_ = std::move(otherwise);
        hearAnew();
    }
}

void Playback::moveByHand(const std::set<EmitterId>& which, bool starts)
{
    listenOtherwise([&](Otherwise& otherwise) { otherwise.handedOnes.insert(which.begin(), which.end()); });
    if (starts) {
        setListening(true);
    }
    for (const EmitterId& id : which) {
        live_->send({.hand = Happening::Hand{id, starts}});
    }
}

void Playback::setForEars(ForEars forEars)
{
    if (forEars != forEars_) {
        forEars_ = std::move(forEars);
        hearAnew();
    }
}

Playback::Marked Playback::marked(const Emitter& emitter) const
{
    const Family* family = session_.project().families.find(emitter.family);
    return {emitter.muted || (family != nullptr && family->muted),
            forEars_.solo.contains(emitter.id) || (family != nullptr && forEars_.soloFamilies.contains(family->id)),
            forEars_.muted.contains(emitter.id)};
}

bool Playback::hearsOtherwise() const
{
    return !forEars_.empty() || !otherwise_.nothing();
}

void Playback::hearAsItIs()
{
    takes_->close();
    if (hearsOtherwise()) {
        forEars_ = {};
        otherwise_ = {};
        hearAnew();
    }
}

/// After anything that is heard otherwise than before.
void Playback::hearAnew()
{
    updateScene();
    emit listeningChanged();
}

void Playback::begin(Audition audition, double from_s)
{
    audition.alone = audition_ ? audition_->alone : !listening();
    audition.serial = ++auditions_;
    audition_ = std::move(audition);
    if (!listening()) {
        setListening(true);
    }
    if (!listening()) {
        audition_.reset();
        return;
    }
    const double now_s = snapshot_ ? live_->snapshot().time_s : 0.0;
    audition_->start_s = now_s - from_s;
    sendScene();
    emit listeningChanged();
}

void Playback::audition(const SoundId& sound, Rounds rounds)
{
    begin({.sound = sound, .file = {}, .rounds = rounds}, 0.0);
}

void Playback::toggleAudition(const SoundId& sound, Rounds rounds)
{
    if (auditions(sound)) {
        stopAudition();
    } else {
        audition(sound, rounds);
    }
}

void Playback::auditionFile(const SoundId& sound, std::size_t file, double from_s, bool loop)
{
    begin({.sound = sound, .file = file, .rounds = loop ? Rounds::endless : Rounds::once}, from_s);
}

void Playback::auditionInstead(const SoundId& sound, std::size_t file, bool loop, const std::filesystem::path& instead,
                               double by_db)
{
    begin({.sound = sound,
           .file = file,
           .rounds = loop ? Rounds::endless : Rounds::once,
           .instead = instead,
           .instead_db = by_db},
          0.0);
}

void Playback::stopAudition()
{
    if (!audition_) {
        return;
    }
    const bool alone = audition_->alone;
    audition_.reset();
    sendScene();
    if (alone) {
        setListening(false);
    }
    emit listeningChanged();
}

std::vector<double> Playback::positionsOf(const SoundId& sound, std::size_t file)
{
    return snapshot_ ? positions_.in(sent_, sound, file, snapshot_->time_s, audition_,
                                     snapshot_->worldOf == sent_->model.sharedWorld() ? snapshot_->world.get() : nullptr)
                     : std::vector<double>{};
}

/// Keeps when the highest peak beyond full scale came, and of what; told anew only where it is clearly higher.
void Playback::noteOver()
{
    const auto peak = static_cast<double>(*std::max_element(snapshot_->peak.begin(), snapshot_->peak.end()));
    const double over_db = 20.0 * std::log10(std::max(peak, 1.0));
    constexpr double clearly_db = 0.5;
    if (trial_ || audition_ || over_db <= over_.db + (over_.db > 0.0 ? clearly_db : 0.0)) {
        return;
    }
    over_ = {over_db, snapshot_->time_s, {}};
    const std::vector<Heard>& now = heard();
    const auto loudest = loudestOf(now, recordedPeaks(*scene_));
    const auto& rooms = roomsHeard();
    const auto room = std::max_element(rooms.begin(), rooms.end(),
                                       [](const RoomHeard& a, const RoomHeard& b) { return a.level_db < b.level_db; });
    const Level& level = scene_->model.level();
    if (room != rooms.end() && (!loudest || room->level_db > now[*loudest].level_db)) {
        over_.loudest = "the reverb of " + level.rooms[room->room]->name;
    } else if (loudest) {
        over_.loudest = level.emitters[*loudest]->name;
    }
}

std::optional<double> Playback::playedFor_s(const SoundId& sound) const
{
    if (!snapshot_) {
        return {};
    }
    if (auditions(sound)) {
        return snapshot_->time_s - audition_->start_s;
    }
    const Heard* loudest = nullptr;
    const World& world = scene_->model.world();
    const std::vector<Heard>& now = heardInReach();
    for (const Heard& one : now) {
        const bool plays = one.start.playable != Start::nothing && world.playables()[one.start.playable].sound->id == sound;
        if (plays && one.audible && (loudest == nullptr || one.level_db > loudest->level_db)) {
            loudest = &one;
        }
    }
    return loudest != nullptr ? std::optional(snapshot_->time_s - loudest->start.began_s) : std::nullopt;
}

void Playback::tellOutput()
{
    std::optional<OutputInUse> output;
    if (listening()) {
        output = OutputInUse{live_->layout(),
                             output_.device()->cardChannels(),
                             snapshot_ && snapshot_->starved > 0,
                             snapshot_ ? snapshot_->broken : std::string(),
                             over_.db,
                             over_.at_s,
                             over_.loudest};
    }
    session_.setOutput(output);
}

void Playback::setListening(bool on)
{
    if (on == listening()) {
        return;
    }
    if (!on) {
        setWalking(false);
        if (trial_) {
            trial_.reset();
            listen();
            sendScene();
        }
        output_.close();
        tellOutput();
        if (audition_) {
            audition_.reset();
            sendScene();
        }
    } else {
        live_->restart();
        output_.open(*live_);
    }
    emit listeningChanged();
}

void Playback::chooseOutput(const QString& name)
{
    output_.choose(name);
    if (listening()) {
        output_.open(*live_);
        emit listeningChanged();
    }
}

void Playback::tryOutput(std::optional<double> from_deg)
{
    const bool alone = trial_ ? trial_->alone : !listening();
    setWalking(false);
    stopAudition();
    if (!listening()) {
        setListening(true);
    }
    if (!listening()) {
        return; // why there is no output has been said
    }
    trial_ = Trial{earTestScene(live_->rate(), head_), from_deg, 0.0, alone};
    sendScene();
    live_->listenFrom(earTestPose(from_deg.value_or(0.0)));
    emit listeningChanged();
}

void Playback::endTrial()
{
    if (!trial_) {
        return;
    }
    const bool alone = trial_->alone;
    trial_.reset();
    listen();
    sendScene();
    if (alone) {
        setListening(false);
    }
    emit listeningChanged();
}

void Playback::restart()
{
    live_->restart();
}

void Playback::setMonitor_db(double level_db)
{
    monitor_db_ = level_db;
    live_->setMonitor_db(level_db);
}

void Playback::setLayout(Layout layout)
{
    if (layout == live_->layout()) {
        return;
    }
    const bool on = listening();
    setWalking(false);
    output_.close();
    live_ = std::make_unique<Live>(layout, session_.bank().rate());
    told_.reset();
    live_->setMonitor_db(monitor_db_);
    live_->follow(leader_);
    sendScene();
    live_->setFeet(feet(), true);
    listen();
    if (on) {
        output_.open(*live_);
    }
    emit listeningChanged();
}

void Playback::setHead(SharedHead head)
{
    head_ = std::move(head);
    hearAnew();
}

} // namespace stone
