#include "app/session/playback.h"

#include "project/edit.h"
#include "world/walk_pose.h"

#include <QtConcurrent>

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace stone
{

namespace
{

constexpr double furthestUp_deg = 85.0;
constexpr std::size_t blockFrames = 256;
constexpr int lookAgain_ms = 2000;
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

bool outputIsThere(const QString& name)
{
    const std::vector<SoundCard> cards = soundCards();
    return std::any_of(cards.begin(), cards.end(),
                       [&](const SoundCard& card) { return name.isEmpty() || nameOf(card) == name; });
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
      live_(std::make_unique<Live>(Layout::stereo, session.bank().rate())), findOutput_(outputIsThere)
{
    connect(&session_, &Session::adopted, this, [this] {
        forEars_ = {};
        otherFalloff_.reset();
    });
    for (const auto signal : {&Session::documentChanged, &Session::soundsChanged, &Session::waysFound}) {
        connect(&session_, signal, this, &Playback::followDocument);
    }
    connect(&maker_, &SceneMaker::made, this, &Playback::takeScene);
    connect(&session_, &Session::levelChanged, this, &Playback::updateLevel);
    updateScene();
    lookAgain_.setInterval(lookAgain_ms);
    connect(&lookAgain_, &QTimer::timeout, this, &Playback::lookForOutput);
    connect(&outputSeen_, &QFutureWatcherBase::finished, this, &Playback::comeBack);
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

std::shared_ptr<const Project> Playback::projectAsHeard() const
{
    const LevelId& level = session_.level().id;
    const Emitter* other = otherFalloff_ ? session_.level().emitters.find(otherFalloff_->emitter) : nullptr;
    if (!bare_ && gazing_ && answering_ && other == nullptr) {
        return session_.document();
    }
    Project heard = bare_ ? withoutTreatment(session_.project()) : session_.project();
    if (!gazing_) {
        heard.gazes = {};
    }
    if (!answering_) {
        heard = withoutReverb(std::move(heard), level);
    }
    if (other != nullptr) {
        Falloff falloff = falloffOf(heard, *other);
        falloff.lanes = otherFalloff_->lanes;
        heard = withFalloff(std::move(heard), level, other->id, std::move(falloff));
    }
    return std::make_shared<const Project>(std::move(heard));
}

/// After an edit, or when files were read. In a large level the scene comes a little later, unless things came or went: then
/// nothing may be shown of the one before.
void Playback::followDocument()
{
    const World& before = scene_->model.world();
    const Level& level = session_.level();
    if (!SceneMaker::worthwhile(level) || session_.path() != pathShown_ ||
        !sameNumbers(before.project(), before.level(), session_.project(), level)) {
        updateScene();
        return;
    }
    shown_ = projectAsHeard();
    followFeet(0.001, false);
    maker_.make(
        [project = shown_, id = level.id, &bank = session_.bank(), files = session_.files(),
         ground = session_.loadedLevel().ground, head = head_, forEars = forEars_](const Scene* scene) {
            return makeScene(
                project, id, bank, [&files](const std::string& file) { return files.resolve(file); }, Loading::later, ground,
                head, forEars, scene);
        },
        scene_);
}

void Playback::takeScene(const std::shared_ptr<const Scene>& scene)
{
    scene_ = scene;
    replay_.reset();
    sendScene();
    fetchWorld();
    emit sceneChanged();
    emit ticked();
    emit moved();
}

void Playback::updateScene()
{
    maker_.forget();
    shown_ = projectAsHeard();
    scene_ = makeScene(
        shown_, session_.level().id, session_.bank(), [this](const std::string& file) { return session_.resolve(file); },
        Loading::later, session_.loadedLevel().ground, head_, forEars_, scene_.get());
    replay_.reset();
    sendScene();
    followFeet(0.001, false);
    const Level& level = session_.level();
    if (session_.path() != pathShown_ || level.id != levelShown_) {
        pathShown_ = session_.path();
        levelShown_ = level.id;
        walking_ = false;
        live_->stopWalk();
        walkId_ = level.walks.empty() ? WalkId{} : level.walks[0]->id;
        walk_s_ = 0.0;
        placeFeet(startPose(level.character));
        loadHeardFirst();
        emit walkChanged();
    } else if (level.walks.find(walkId_) == nullptr) {
        chooseWalk(level.walks.empty() ? WalkId{} : level.walks[0]->id);
    }
    fetchWorld();
}

/// What is loudest where the character starts is read before the rest.
void Playback::loadHeardFirst()
{
    std::vector<Heard> loudest = heardInReach();
    std::stable_sort(loudest.begin(), loudest.end(), [](const Heard& a, const Heard& b) { return a.level_db > b.level_db; });
    std::vector<SoundBank::Key> files;
    const World& world = scene_->model.world();
    for (const Heard& one : loudest) {
        if (const auto playable = one.audible ? world.playableOf(one.index) : std::nullopt) {
            const auto own = filesOf(*world.playables()[*playable].sound,
                                     [this](const std::string& file) { return session_.resolve(file); });
            files.insert(files.end(), own.begin(), own.end());
        }
    }
    session_.bank().loadFirst(files);
}

TimeSpan Playback::when() const
{
    return snapshot_ ? TimeSpan::at(snapshot_->time_s) : scrubbed_ ? TimeSpan::at(walk_s_) : TimeSpan{};
}

Moment Playback::moment() const
{
    const auto step = engineHeard();
    const World& world = scene_->model.world();
    return step && world_ ? world.momentOf(*world_, step->ears, step->when)
                          : world.momentOf(stance_, ears(), when(), world_.get());
}

/// What the engine heard, while it plays what is shown here: the same things under the same numbers, though one of them may
/// have been changed since. Of an audition alone the level's part is silence, and nothing is to be seen in it.
std::shared_ptr<const HeardStep> Playback::engineHeard() const
{
    const auto step = snapshot_ && !(audition_ && audition_->alone) ? snapshot_->hearing : nullptr;
    if (!step || step->scene == scene_) {
        return step;
    }
    if (compared_.first.lock() != step->scene || compared_.second.lock() != scene_) {
        const auto sameIds = [](const auto& then, const auto& now) {
            return then.size() >= now.size() &&
                   std::equal(now.begin(), now.end(), then.begin(),
                              [](const auto& a, const auto& b) { return a == b || a->id == b->id; });
        };
        const Level& then = step->scene->model.level();
        const Level& now = scene_->model.level();
        sameNumbers_ = then.id == now.id && sameIds(then.emitters, now.emitters) && sameIds(then.rooms, now.rooms) &&
                       then.rooms.size() == now.rooms.size();
        compared_ = {step->scene, scene_};
    }
    return sameNumbers_ ? step : nullptr;
}

void Playback::look() const
{
    const Moment now = moment();
    const auto step = engineHeard();
    const Moment& then = looked_.moment;
    const bool same = looked_.scene == scene_ && looked_.step == step && static_cast<const Pose&>(now.ears) == then.ears &&
                      now.gaze == then.gaze && now.feet == then.feet && now.visitor == then.visitor &&
                      now.nearest == then.nearest && now.when.from_s == then.when.from_s && now.when.to_s == then.when.to_s &&
                      now.state == then.state;
    if (same) {
        return;
    }
    if (looked_.scene != scene_) {
        looked_.scratch = {};
        looked_.scratch.memory.emplace(false);
    }
    scene_->model.hearAll(now, step ? std::span<const Heard>(step->heard) : std::span<const Heard>{}, looked_.heard,
                          looked_.scratch);
    looked_.scene = scene_;
    looked_.step = step;
    looked_.moment = now;
    looked_.reached = false;
}

const std::vector<Heard>& Playback::heard() const
{
    look();
    return looked_.heard;
}

const std::vector<Heard>& Playback::heardInReach() const
{
    look();
    if (!looked_.reached) {
        if (looked_.step) {
            looked_.inReach = looked_.step->heard;
            const std::size_t shown = scene_->model.level().emitters.size();
            std::erase_if(looked_.inReach, [&](const Heard& one) { return one.index >= shown; });
        } else {
            scene_->model.hear(looked_.moment, looked_.inReach, looked_.reachScratch);
        }
        looked_.reached = true;
    }
    return looked_.inReach;
}

const std::vector<RoomHeard>& Playback::roomsHeard() const
{
    look();
    return looked_.step ? looked_.step->rooms : looked_.scratch.roomsHeard;
}

std::shared_ptr<const WorldState> Playback::replayed(double time_s)
{
    const Walk* walk = session_.level().walks.find(walkId_);
    if (walk == nullptr) {
        return {};
    }
    if (!replay_) {
        replay_ = std::make_unique<Replay>(scene_->model.sharedWorld(), *walk,
                                           static_cast<double>(stepFrames) / session_.bank().rate());
    }
    return std::make_shared<const WorldState>(replay_->at(time_s));
}

void Playback::fetchWorld()
{
    if (snapshot_ && snapshot_->world && snapshot_->worldOf) {
        const bool same = snapshot_->worldOf == scene_->model.sharedWorld();
        world_ =
            same
                ? snapshot_->world
                : std::make_shared<const WorldState>(scene_->model.world().carriedOver(*snapshot_->worldOf, *snapshot_->world));
    } else {
        world_ = scrubbed_ ? replayed(walk_s_) : nullptr;
    }
}

void Playback::send(const SignalId& signal)
{
    live_->send({Cause::signal, signal});
}

void Playback::setGameValue(const GameValueId& id, double number)
{
    live_->send({Cause::signal, {}, std::pair(id, number)});
}

void Playback::interact()
{
    live_->send({Cause::interact, {}});
}

void Playback::reset()
{
    placeFeet(startPose(session_.level().character));
    live_->send({Cause::reset, {}});
}

void Playback::jump()
{
    if (!walking_ && flight_ == Flight::none) {
        walker_.jump();
    }
}

void Playback::setPaused(bool paused)
{
    if (paused) {
        live_->pause();
    } else {
        live_->goOn();
    }
}

void Playback::stepTime(double seconds)
{
    live_->goOn(seconds);
}

/// The engine gets what is shown, and an audition on top of it as one more emitter that nobody sees.
void Playback::sendScene()
{
    sent_ = scene_;
    if (audition_ && session_.project().sounds.find(audition_->sound) != nullptr) {
        const LevelId level = session_.level().id;
        auto project = std::make_shared<const Project>(withAudition(*shown_, level, *audition_));
        sent_ = makeScene(
            project, level, session_.bank(), [this](const std::string& file) { return session_.resolve(file); }, Loading::later,
            session_.loadedLevel().ground, head_, forAudition(forEars_, *audition_), scene_.get());
    }
    live_->setScene(sent_);
}

void Playback::setBare(bool bare)
{
    if (bare != bare_) {
        bare_ = bare;
        updateScene();
        emit listeningChanged();
    }
}

void Playback::setGazing(bool on)
{
    if (on != gazing_) {
        gazing_ = on;
        updateScene();
        emit listeningChanged();
    }
}

void Playback::setAnswering(bool on)
{
    if (on != answering_) {
        answering_ = on;
        updateScene();
        emit listeningChanged();
    }
}

void Playback::setForEars(ForEars forEars)
{
    if (forEars != forEars_) {
        forEars_ = std::move(forEars);
        updateScene();
        emit listeningChanged();
    }
}

void Playback::setOtherFalloff(std::optional<OtherFalloff> other)
{
    if (other || otherFalloff_) {
        otherFalloff_ = std::move(other);
        updateScene();
        emit listeningChanged();
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
        updateScene();
        emit listeningChanged();
    }
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

void Playback::updateLevel()
{
    ground_ = session_.loadedLevel().ground;
    walker_.setLevel(session_.loadedLevel().cutter, ground_);
    // Steps, one-shots and ways round walls need the geometry.
    updateScene();
}

QString Playback::tryDevice(const QString& name)
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
        return {};
    } catch (const std::exception& error) {
        closeDevice();
        return QString::fromStdString(error.what());
    }
}

bool Playback::openDevice(const QString& name)
{
    const QString error = tryDevice(name);
    if (!error.isEmpty()) {
        emit outputFailed(error);
    }
    return error.isEmpty();
}

void Playback::tellOutput()
{
    std::optional<OutputInUse> output;
    if (device_) {
        output = OutputInUse{live_->layout(), device_->cardChannels(), snapshot_ && snapshot_->starved > 0,
                             snapshot_ ? snapshot_->broken : std::string()};
    }
    session_.setOutput(output);
}

void Playback::closeDevice()
{
    if (device_) {
        device_->stop();
        device_.reset();
    }
    live_->stop();
    snapshot_.reset();
    fetchWorld();
}

void Playback::setListening(bool on)
{
    if (on == listening()) {
        return;
    }
    lookAgain_.stop();
    if (!on) {
        setWalking(false);
        closeDevice();
        tellOutput();
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
    lookAgain_.stop();
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
    lookAgain_.start();
    emit outputFailed(message);
    emit listeningChanged();
}

/// Looks for the output that was chosen, on another thread: a sound server that hangs would keep the window waiting.
void Playback::lookForOutput()
{
    if (!listening() || audible()) {
        lookAgain_.stop();
        return;
    }
    if (!outputSeen_.isRunning()) {
        outputSeen_.setFuture(QtConcurrent::run([find = findOutput_, wanted = chosen_] { return find(wanted); }));
    }
}

void Playback::comeBack()
{
    if (!outputSeen_.result() || !listening() || !lookAgain_.isActive()) {
        return;
    }
    if (tryDevice(chosen_).isEmpty()) {
        lookAgain_.stop();
        emit outputBack(outputName());
    } else {
        openDevice(clockName);
    }
    emit listeningChanged();
}

void Playback::restart()
{
    live_->restart();
}

Pose Playback::ears() const
{
    const Project& project = session_.project();
    if (elsewhere_) {
        return stanceOf(rigOf(project, project.rig), session_.level().character, *elsewhere_, 1.0).ears;
    }
    return flight_ == Flight::ears ? flyer_ : stance_.ears;
}

void Playback::followFeet(double seconds, bool jumped)
{
    stance_ = listener_.step(session_.project(), session_.level().character, feet_, ground_.get(), seconds, jumped);
}

/// Tells the engine where the ears are, if not where the rig has them.
void Playback::listen()
{
    live_->listenFrom(elsewhere_ || flight_ == Flight::ears ? std::optional(ears()) : std::nullopt);
    emit ticked();
    emit moved();
}

void Playback::listenFrom(const std::optional<Pose>& feet)
{
    if (feet != elsewhere_) {
        elsewhere_ = feet;
        listen();
    }
}

void Playback::fly(Flight what)
{
    if (what == flight_) {
        return;
    }
    if (flight_ == Flight::none) {
        flyer_ = what == Flight::ears ? stance_.ears : stance_.camera;
    }
    flight_ = what;
    walker_.stand();
    listen();
    emit flightChanged();
}

void Playback::turnHead(double heading_deg, double pitch_deg, double roll_deg)
{
    const bool flies = flight_ != Flight::none;
    Pose turned = flies ? flyer_ : feet_;
    turned.heading_deg = wrapDegrees(heading_deg);
    turned.pitch_deg = pitch_deg;
    turned.roll_deg = roll_deg;
    if (flies) {
        flyer_ = turned;
        listen();
    } else {
        carryFeet(turned);
    }
}

void Playback::lookBy(double right_deg, double up_deg)
{
    const Pose& now = ownHead();
    turnHead(now.heading_deg + right_deg, std::clamp(now.pitch_deg + up_deg, -furthestUp_deg, furthestUp_deg), now.roll_deg);
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
    listen();
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
    fly(Flight::none);
    setWalking(false);
    scrubbed_ = false;
    walker_.stand();
    feet_ = feet;
    followFeet(0.0, true);
    fetchWorld();
    live_->setFeet(feet_, true);
    announce();
}

void Playback::carryFeet(const Pose& feet)
{
    setWalking(false);
    scrubbed_ = false;
    walker_.stand();
    feet_ = feet;
    followFeet(0.0, true);
    fetchWorld();
    live_->setFeet(feet_, false);
    announce();
}

void Playback::setWalkInput(const WalkInput& input)
{
    walker_.setInput(input, feet_.heading_deg);
    if (!input.still() && walking_ && flight_ == Flight::none) {
        setWalking(false);
    }
}

void Playback::chooseWalk(const WalkId& id)
{
    setWalking(false);
    walkId_ = id;
    walk_s_ = 0.0;
    replay_.reset();
    scrubbed_ = false;
    fetchWorld();
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
        live_->playWalk(walkId_, walk_s_, walk_s_ > 0.0 ? replayed(walk_s_) : nullptr);
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
    followFeet(0.0, true);
    walker_.stand();
    scrubbed_ = true;
    if (walking_) {
        live_->playWalk(walkId_, walk_s_, replayed(walk_s_));
    } else {
        live_->setFeet(feet_, false);
    }
    fetchWorld();
    emit walkChanged();
    announce();
}

void Playback::moveByHand(double seconds)
{
    const Character& character = session_.level().character;
    if (flight_ != Flight::none) {
        if (!walker_.input().still()) {
            flyer_ = flown(flyer_, walker_.input(), character.speed_m_s, seconds);
            listen();
        }
        return;
    }
    if (walking_) {
        walker_.stand();
    } else if (walker_.step(feet_, character, seconds)) {
        scrubbed_ = false;
        live_->setFeet(feet_, false);
    }
}

void Playback::announce()
{
    constexpr qint64 atLeast_ms = 100;
    emit ticked();
    const bool due = listening() && (!sinceMoved_.isValid() || sinceMoved_.elapsed() >= atLeast_ms);
    if (due || !(feet_ == lastFeet_) || !(stance_.ears == lastEars_)) {
        lastFeet_ = feet_;
        lastEars_ = stance_.ears;
        sinceMoved_.start();
        emit moved();
    }
}

void Playback::tick(double seconds)
{
    // After a pause of the whole window (a dialog, a debugger) nobody wants to be metres away.
    moveByHand(std::min(seconds, 0.1));
    if (device_) {
        snapshot_ = live_->snapshot();
        fetchWorld();
        tellOutput();
        if (audition_ && isOver(*sent_, *audition_, snapshot_->time_s)) {
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
    followFeet(std::min(seconds, 0.1), false);
    announce();
}

} // namespace stone
