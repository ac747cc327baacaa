#include "app/session/playback.h"

#include "hearing/walk_pose.h"
#include "project/edit.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace stone
{

namespace
{

constexpr double turn_deg_s = 110.0;
constexpr double fastFactor = 2.5;
constexpr std::size_t blockFrames = 256;
const QString clockName = QStringLiteral("No sound card: clock only");

QString nameOf(const SoundCard& card)
{
    return QString::fromStdString(card.name + " (" + card.api + ")");
}

} // namespace

QStringList outputs()
{
    QStringList names;
    for (const SoundCard& card : soundCards()) {
        names << nameOf(card);
    }
    return names << clockName;
}

std::unique_ptr<AudioDevice> openOutput(const QString& name, int rate, unsigned channels)
{
    if (name != clockName) {
        const std::vector<SoundCard> cards = soundCards();
        auto card = std::find_if(cards.begin(), cards.end(), [&](const SoundCard& c) { return nameOf(c) == name; });
        if (card == cards.end() && !name.isEmpty()) {
            throw std::runtime_error(name.toStdString() + " is not there any more; choose another output");
        }
        if (card == cards.end()) {
            card = std::find_if(cards.begin(), cards.end(), [](const SoundCard& c) { return c.usual; });
        }
        if (card != cards.end()) {
            return openSoundCard(*card, rate, blockFrames, channels);
        }
    }
    return openClock(rate, blockFrames);
}

Playback::Playback(Session& session, OpenDevice open, QObject* parent)
    : QObject(parent), session_(session), open_(std::move(open)),
      live_(std::make_unique<Live>(Layout::stereo, session.bank().rate()))
{
    connect(&session_, &Session::documentChanged, this, &Playback::updateScene);
    connect(&session_, &Session::soundsChanged, this, &Playback::updateScene);
    connect(&session_, &Session::levelChanged, this, &Playback::updateLevel);
    updateScene();
    timer_.setTimerType(Qt::PreciseTimer);
    timer_.setInterval(16);
    connect(&timer_, &QTimer::timeout, this, [this] { tick(static_cast<double>(sinceTick_.restart()) / 1000.0); });
    sinceTick_.start();
    timer_.start();
}

Playback::~Playback()
{
    closeDevice();
}

void Playback::updateScene()
{
    scene_ = makeScene(
        session_.document(), session_.level().id, session_.bank(),
        [this](const Sound& sound) { return session_.resolve(sound); }, Loading::later, head_);
    sendScene();
    const Level& level = session_.level();
    if (session_.path() != pathShown_ || level.id != levelShown_) {
        pathShown_ = session_.path();
        levelShown_ = level.id;
        walking_ = false;
        live_->stopWalk();
        walkId_ = level.walks.empty() ? WalkId{} : level.walks[0]->id;
        walk_s_ = 0.0;
        placeFeet(startPose(level.character));
        emit walkChanged();
    } else if (level.walks.find(walkId_) == nullptr) {
        chooseWalk(level.walks.empty() ? WalkId{} : level.walks[0]->id);
    }
}

/// The engine gets what is shown, and an audition on top of it as one more emitter that nobody sees.
void Playback::sendScene()
{
    if (!audition_ || session_.project().sounds.find(audition_->sound) == nullptr) {
        live_->setScene(scene_);
        return;
    }
    Emitter emitter;
    emitter.id = {"audition " + std::to_string(audition_->serial)};
    emitter.kind = EmitterKind::bed;
    emitter.sound = audition_->sound;
    emitter.startAfter_s = audition_->start_s;
    emitter.solo = audition_->alone;
    emitter.priority = Priority::vital;
    const LevelId level = session_.level().id;
    auto project = std::make_shared<const Project>(
        withLevel(session_.project(), level, [&](Level& l) { l.emitters.append(std::move(emitter)); }));
    auto scene = std::make_shared<Scene>(*makeScene(
        project, level, session_.bank(), [this](const Sound& sound) { return session_.resolve(sound); }, Loading::later,
        head_));
    if (audition_->alone) {
        scene->only = {static_cast<std::uint32_t>(project->levels.find(level)->emitters.size() - 1)};
    }
    live_->setScene(scene);
}

void Playback::audition(const SoundId& sound, double from_s)
{
    const bool alone = audition_ ? audition_->alone : !listening();
    audition_ = Audition{sound, 0.0, ++auditions_, alone};
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

std::optional<double> Playback::positionOf(const Emitter& emitter, double time_s) const
{
    const Sound* sound = session_.project().sounds.find(emitter.sound);
    const SoundBank::Entry entry = sound != nullptr ? session_.soundEntry(*sound) : SoundBank::Entry{};
    if (!entry.buffer) {
        return {};
    }
    const double length_s = entry.buffer->seconds();
    const CopyChance copy = chanceOf(session_.project(), emitter);
    const double rate = std::pow(2.0, (emitter.pitch_st + copy.pitch_st) / 12.0);
    const double at_s = copy.start * length_s + (time_s - emitter.startAfter_s) * rate;
    if (at_s < 0.0 || (!sound->loop && at_s > length_s)) {
        return {};
    }
    return sound->loop ? std::fmod(at_s, length_s) : at_s;
}

std::vector<double> Playback::positionsOf(const SoundId& sound) const
{
    std::vector<double> positions;
    if (!snapshot_) {
        return positions;
    }
    const auto add = [&](const Emitter& emitter) {
        if (const auto position = positionOf(emitter, snapshot_->time_s)) {
            positions.push_back(*position);
        }
    };
    if (audition_ && audition_->sound == sound) {
        Emitter copy;
        copy.sound = sound;
        copy.startAfter_s = audition_->start_s;
        add(copy);
    }
    for (const auto& emitter : session_.level().emitters) {
        if (emitter->sound == sound && (!audition_ || !audition_->alone)) {
            add(*emitter);
        }
    }
    return positions;
}

void Playback::updateLevel()
{
    cutter_ = session_.loadedLevel().cutter;
    surface_.reset();
    if (cutter_) {
        surface_.emplace(*cutter_);
    }
}

bool Playback::openDevice(const QString& name)
{
    closeDevice();
    try {
        device_ = open_(name, live_->rate(), static_cast<unsigned>(channelsOf(live_->layout())));
        // The first plans are ready before the device asks for sound.
        live_->pump();
        device_->start(*live_);
        if (!device_->movedByHand()) {
            live_->start();
        }
        return true;
    } catch (const std::exception& error) {
        closeDevice();
        emit outputFailed(QString::fromStdString(error.what()));
        return false;
    }
}

void Playback::closeDevice()
{
    if (device_) {
        device_->stop();
        device_.reset();
    }
    live_->stop();
    snapshot_.reset();
}

void Playback::setListening(bool on)
{
    if (on == listening()) {
        return;
    }
    if (!on) {
        setWalking(false);
        closeDevice();
        if (audition_) {
            audition_.reset();
            sendScene();
        }
    } else {
        live_->restart();
        if (!openDevice(chosen_)) {
            openDevice(clockName);
        }
    }
    emit listeningChanged();
}

QString Playback::outputName() const
{
    return device_ ? QString::fromStdString(device_->name()) : QString();
}

void Playback::chooseOutput(const QString& name)
{
    chosen_ = name;
    if (listening()) {
        if (!openDevice(chosen_)) {
            openDevice(clockName);
        }
        emit listeningChanged();
    }
}

void Playback::fallBack(const QString& message)
{
    openDevice(clockName);
    emit outputFailed(message);
    emit listeningChanged();
}

void Playback::restart()
{
    live_->restart();
}

Pose Playback::ears() const
{
    return earsOf(session_.level().character, elsewhere_.value_or(feet_));
}

Pose Playback::characterEars() const
{
    return earsOf(session_.level().character, feet_);
}

void Playback::listenFrom(const std::optional<Pose>& feet)
{
    if (feet == elsewhere_) {
        return;
    }
    elsewhere_ = feet;
    live_->listenFrom(feet);
    emit ticked();
    emit moved();
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
    closeDevice();
    live_ = std::make_unique<Live>(layout, session_.bank().rate());
    live_->setMonitor_db(monitor_db_);
    sendScene();
    live_->setFeet(feet_, true);
    if (on && !openDevice(chosen_)) {
        openDevice(clockName);
    }
    emit listeningChanged();
}

void Playback::setHead(SharedHead head)
{
    head_ = std::move(head);
    updateScene();
    emit listeningChanged();
}

void Playback::placeFeet(const Pose& feet)
{
    setWalking(false);
    feet_ = feet;
    live_->setFeet(feet_, true);
    announce();
}

void Playback::carryFeet(const Pose& feet)
{
    setWalking(false);
    feet_ = feet;
    live_->setFeet(feet_, false);
    announce();
}

void Playback::setWalkInput(const WalkInput& input)
{
    input_ = input;
    if (!input.still() && walking_) {
        setWalking(false);
    }
}

void Playback::chooseWalk(const WalkId& id)
{
    setWalking(false);
    walkId_ = id;
    walk_s_ = 0.0;
    emit walkChanged();
}

double Playback::walkLength_s() const
{
    const Walk* walk = session_.level().walks.find(walkId_);
    return walk != nullptr ? walk->seconds() : 0.0;
}

void Playback::setWalking(bool on)
{
    if (on == walking_ || (on && walkId_.empty())) {
        return;
    }
    if (on) {
        setListening(true);
        if (walk_s_ >= walkLength_s()) {
            walk_s_ = 0.0;
        }
        live_->playWalk(walkId_, walk_s_);
    } else {
        live_->stopWalk();
        live_->setFeet(feet_, false);
    }
    walking_ = on;
    emit walkChanged();
}

void Playback::seekWalk(double time_s)
{
    const Walk* walk = session_.level().walks.find(walkId_);
    if (walk == nullptr) {
        return;
    }
    walk_s_ = std::clamp(time_s, 0.0, walk->seconds());
    feet_ = walkPose(*walk, walk_s_);
    if (walking_) {
        live_->playWalk(walkId_, walk_s_);
    } else {
        live_->setFeet(feet_, false);
    }
    emit walkChanged();
    announce();
}

void Playback::walkByHand(double seconds)
{
    if (input_.still() || walking_) {
        return;
    }
    const Character& character = session_.level().character;
    feet_.heading_deg = wrapDegrees(feet_.heading_deg + input_.turn * turn_deg_s * seconds);
    if (input_.ahead != 0 || input_.right != 0) {
        const double speed = character.speed_m_s * (input_.fast ? fastFactor : 1.0);
        const double heading = radians(feet_.heading_deg);
        const Vec2 ahead{std::sin(heading), std::cos(heading)};
        const Vec2 right{ahead.y, -ahead.x};
        const Vec2 direction =
            glm::normalize(ahead * static_cast<double>(input_.ahead) + right * static_cast<double>(input_.right));
        const Vec2 way = direction * (speed * seconds);
        feet_.at = character.collides && surface_ ? surface_->step(feet_.at, way) : feet_.at + Vec3{way.x, way.y, 0.0};
    }
    live_->setFeet(feet_, false);
}

void Playback::announce()
{
    constexpr qint64 atLeast_ms = 100;
    emit ticked();
    const bool due = listening() && (!sinceMoved_.isValid() || sinceMoved_.elapsed() >= atLeast_ms);
    if (due || !(feet_ == lastFeet_)) {
        lastFeet_ = feet_;
        sinceMoved_.start();
        emit moved();
    }
}

void Playback::tick(double seconds)
{
    // After a pause of the whole window (a dialog, a debugger) nobody wants to be metres away.
    walkByHand(std::min(seconds, 0.1));
    if (device_) {
        snapshot_ = live_->snapshot();
        Emitter copy;
        if (audition_) {
            copy.sound = audition_->sound;
            copy.startAfter_s = audition_->start_s;
        }
        // A one-shot that has run out is over; what has not begun yet, or is still being read, is not.
        if (audition_ && snapshot_->time_s > audition_->start_s + 0.2 && !positionOf(copy, snapshot_->time_s) &&
            session_.bank().pending() == 0) {
            stopAudition();
        }
    }
    if (device_) {
        if (walking_ && snapshot_->walk_s) {
            walk_s_ = *snapshot_->walk_s;
            feet_ = snapshot_->feet;
            if (walk_s_ >= walkLength_s()) {
                setWalking(false);
            }
        }
        if (device_->lost()) {
            fallBack(tr("%1 has stopped answering. Everything goes on without sound; choose an output to hear it again.")
                         .arg(outputName()));
        }
    }
    announce();
}

} // namespace stone
