// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/playback.h"

#include "app/session/ear_test.h"
#include "app/session/take_desk.h"
#include "project/edit.h"
#include "world/walk_pose.h"

#include <algorithm>

namespace stone
{

namespace
{

constexpr int byHand_ms = 16;        ///< from one step of what moves by hand to the next
constexpr int followingWalk_ms = 32; ///< what the engine moves is only shown

} // namespace

Playback::Playback(Session& session, Output::Open open, QObject* parent)
    : QObject(parent), session_(session), live_(std::make_unique<Live>(Layout::stereo, session.bank().rate())),
      output_(open, this)
{
    connect(&session_, &Session::adopted, this, [this] {
        recorder_ = {};
        forEars_ = {};
        otherwise_ = {};
    });
    for (const auto signal : {&Session::documentChanged, &Session::soundsChanged, &Session::waysFound}) {
        connect(&session_, signal, this, &Playback::followDocument);
    }
    connect(&maker_, &SceneMaker::made, this, &Playback::takeScene);
    connect(&session_, &Session::levelChanged, this, &Playback::updateLevel);
    updateScene();
    connect(&output_, &Output::closed, this, [this] {
        snapshot_.reset();
        costHistory_.interrupt();
        fetchWorld();
    });
    connect(&output_, &Output::changed, this, &Playback::listeningChanged);
    connect(&output_, &Output::failed, this, &Playback::outputFailed);
    connect(&output_, &Output::back, this, &Playback::outputBack);
    takes_ = std::make_unique<TakeDesk>(session_, *this, std::move(open));
    timer_.setTimerType(Qt::PreciseTimer);
    timer_.setInterval(byHand_ms);
    connect(&timer_, &QTimer::timeout, this, [this] { tick(static_cast<double>(sinceTick_.restart()) / 1000.0); });
    sinceTick_.start();
    timer_.start();
}

Playback::~Playback()
{
    takes_.reset();
    output_.disconnect(this);
    output_.close();
}

std::shared_ptr<const Project> Playback::projectAsHeard() const
{
    const LevelId& level = session_.level().id;
    return withThings(heardOtherwise(session_.document(), level, otherwise_), level, things_);
}

/// After an edit, or when files were read. In a large level the scene comes a little later, unless things came or went: then
/// nothing may be shown of the one before.
void Playback::followDocument()
{
    over_ = {};
    const World& before = scene_->model.world();
    const Level& level = session_.level();
    const Level* known = before.document()->levels.find(before.level().id);
    if ((!SceneMaker::worthwhile(level) && !SceneMaker::worthwhile(before.level())) || session_.path() != pathShown_ ||
        !sameNumbers(*before.document(), *known, session_.project(), level)) {
        updateScene();
        return;
    }
    shown_ = projectAsHeard();
    followFeet(0.001, false);
    maker_.make([ask = asked(), &bank = session_.bank()](const Scene* shown) { return ask.make(bank, shown); }, scene_);
}

SceneAsk Playback::asked() const
{
    return {shown_, session_.level().id, session_.files(), session_.loadedLevel().ground, head_, forEars_};
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
    scene_ = asked().make(session_.bank(), scene_.get());
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
    return taken_ ? taken_->when : snapshot_ ? TimeSpan::at(snapshot_->time_s) : scrubbed_ ? TimeSpan::at(walk_s_) : TimeSpan{};
}

Moment Playback::moment() const
{
    const auto step = engineHeard();
    const World& world = scene_->model.world();
    return step && world_ ? world.momentOf(*world_, step->ears, step->when)
                          : world.momentOf(stance(), ears(), when(), world_.get());
}

/// What the engine heard, while it plays what is shown here. Of an audition alone the level's part is silence, and nothing is
/// to be seen in it.
std::shared_ptr<const HeardStep> Playback::engineHeard() const
{
    if (taken_) {
        return heardNow_.fitting(taken_, scene_);
    }
    return heardNow_.fitting(snapshot_ && !(audition_ && audition_->alone) ? snapshot_->hearing : nullptr, scene_);
}

void Playback::look() const
{
    heardNow_.look(scene_, engineHeard(), moment());
}

const std::vector<Heard>& Playback::heard() const
{
    look();
    return heardNow_.heard();
}

const Heard& Playback::heardOf(std::uint32_t index) const
{
    look();
    return heardNow_.heardOf(index);
}

const std::vector<Heard>& Playback::heardInReach() const
{
    look();
    return heardNow_.inReach();
}

void Playback::tell(std::shared_ptr<StepListener> listener)
{
    told_ = listener;
    live_->setListener(std::move(listener));
}

void Playback::follow(std::shared_ptr<Leader> leader)
{
    leader_ = leader;
    live_->follow(std::move(leader));
    if (leader_) {
        setWalking(false);
    }
}

void Playback::setThings(const GameThings& things)
{
    if (!(things == things_)) {
        things_ = things;
        updateScene();
    }
}

void Playback::showTaken(std::shared_ptr<const HeardStep> step, const Pose& feet)
{
    if (step && listening()) {
        setListening(false);
    }
    taken_ = std::move(step);
    if (taken_) {
        player_.put(feet);
        scrubbed_ = false;
        live_->setFeet(feet, true);
    }
    announce();
}

const std::vector<RoomHeard>& Playback::roomsHeard() const
{
    look();
    return heardNow_.rooms();
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

/// The engine gets what is shown, and an audition on top of it as one more emitter that nobody sees.
void Playback::sendScene()
{
    if (trial_) {
        live_->setScene(trial_->scene);
        return;
    }
    sent_ = scene_;
    if (audition_ && session_.project().sounds.find(audition_->sound) != nullptr) {
        SceneAsk with = asked();
        with.project = std::make_shared<const Project>(withAudition(*shown_, with.level, *audition_));
        with.forEars = forAudition(forEars_, *audition_);
        if (!audition_->instead.empty()) {
            with.files.alsoRead(audition_->instead);
        }
        sent_ = with.make(session_.bank(), scene_.get());
    }
    live_->setScene(sent_);
}

void Playback::updateLevel()
{
    player_.setLevel(session_.loadedLevel().cutter, session_.loadedLevel().ground);
    // Steps, one-shots and ways round walls need the geometry.
    updateScene();
}

void Playback::announce()
{
    constexpr qint64 atLeast_ms = 100;
    emit ticked();
    const bool due = listening() && (!sinceMoved_.isValid() || sinceMoved_.elapsed() >= atLeast_ms);
    if (due || !(feet() == lastFeet_) || !(stance().ears == lastEars_)) {
        lastFeet_ = feet();
        lastEars_ = stance().ears;
        sinceMoved_.start();
        emit moved();
    }
}

void Playback::tick(double seconds)
{
    // After a pause of the whole window (a dialog, a debugger) nobody wants to be metres away.
    moveByHand(std::min(seconds, 0.1));
    recorder_.add(std::min(seconds, 0.1), feet());
    if (listening()) {
        snapshot_ = live_->snapshot();
        fetchWorld();
        voiceHistory_.take(snapshot_->hearing);
        costHistory_.take(snapshot_->costs);
        noteOver();
        tellOutput();
        if (audition_ && isOver(*sent_, *audition_, snapshot_->time_s)) {
            stopAudition();
        }
    }
    if (listening() && trial_) {
        trial_->seconds += seconds;
        live_->listenFrom(earTestPose(trial_->from_deg.value_or(goneRound_deg(trial_->seconds))));
    }
    if (listening()) {
        if (walking_ && snapshot_->walk_s) {
            walk_s_ = *snapshot_->walk_s;
            player_.carriedTo(snapshot_->feet);
            if (walk_s_ >= walkLength_s()) {
                setWalking(false);
            }
        }
        if (!walking_ && snapshot_->led) {
            player_.carriedTo(snapshot_->feet);
        }
        output_.watch();
    }
    followFeet(std::min(seconds, 0.1), false);
    announce();
    const int next_ms = listening() && walking_ ? followingWalk_ms : byHand_ms;
    if (timer_.interval() != next_ms) {
        timer_.setInterval(next_ms);
    }
}

} // namespace stone
