#include "app/session/playback.h"

/// What is listened to beside the level as it is, and through what.
namespace stone
{

void Playback::setBare(bool bare)
{
    if (bare != bare_) {
        bare_ = bare;
        hearAnew();
    }
}

void Playback::setGazing(bool on)
{
    if (on != gazing_) {
        gazing_ = on;
        hearAnew();
    }
}

void Playback::setAnswering(bool on)
{
    if (on != answering_) {
        answering_ = on;
        hearAnew();
    }
}

void Playback::setForEars(ForEars forEars)
{
    if (forEars != forEars_) {
        forEars_ = std::move(forEars);
        hearAnew();
    }
}

void Playback::setOtherFalloff(std::optional<OtherFalloff> other)
{
    if (other || otherFalloff_) {
        otherFalloff_ = std::move(other);
        hearAnew();
    }
}

bool Playback::hearsOtherwise() const
{
    return !forEars_.empty() || otherFalloff_ || bare_ || !gazing_ || !answering_;
}

void Playback::hearAsItIs()
{
    if (hearsOtherwise()) {
        forEars_ = {};
        otherFalloff_.reset();
        bare_ = false;
        gazing_ = answering_ = true;
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

void Playback::audition(const SoundId& sound)
{
    begin({.sound = sound, .file = {}}, 0.0);
}

void Playback::auditionFile(const SoundId& sound, std::size_t file, double from_s, bool loop)
{
    begin({.sound = sound, .file = file, .loop = loop}, from_s);
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

void Playback::tellOutput()
{
    std::optional<OutputInUse> output;
    if (listening()) {
        output = OutputInUse{live_->layout(), output_.device()->cardChannels(), snapshot_ && snapshot_->starved > 0,
                             snapshot_ ? snapshot_->broken : std::string()};
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
    live_->setMonitor_db(monitor_db_);
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
