// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/take_desk.h"

#include "app/session/playback.h"
#include "app/session/work_pool.h"
#include "project/file_error.h"
#include "takes/take_walk.h"

#include <QtConcurrent>

#include <algorithm>
#include <system_error>

namespace stone
{

namespace
{

constexpr const char* ending = ".take";

/// The number of each of a take's things in a level, by id; none for those that are not there any more.
template <class Things, class Named>
std::vector<std::optional<std::uint32_t>> numbersIn(const Things& things, const Named& named)
{
    std::vector<std::optional<std::uint32_t>> numbers;
    for (const auto& one : named) {
        const auto index = things.indexOf({one.id});
        numbers.push_back(index ? std::optional(static_cast<std::uint32_t>(*index)) : std::nullopt);
    }
    return numbers;
}

/// A moment of a take as if the engine had just heard it in the level that is open: of what is still there.
std::shared_ptr<const HeardStep> asHeard(const Take& take, const TakenMoment& moment, const std::shared_ptr<const Scene>& scene)
{
    const HearingModel& model = scene->model;
    const auto emitters = numbersIn(model.level().emitters, take.emitters());
    const auto rooms = numbersIn(model.level().rooms, take.rooms());
    auto step = std::make_shared<HeardStep>();
    step->scene = scene;
    step->ears = Ears(moment.ears);
    step->when = TimeSpan::at(moment.level_s);
    const Frame frame = frameOf(moment.ears);
    const auto& playables = model.world().playables();
    for (const TakenCopy& copy : moment.copies) {
        const TakeCopy& which = take.copies()[copy.copy];
        const auto index = emitters[which.emitter];
        const auto playable =
            std::find_if(playables.begin(), playables.end(), [&](const Playable& p) { return p.sound->id == which.sound; });
        if (!index || playable == playables.end()) {
            continue;
        }
        Heard heard;
        heard.index = *index;
        heard.audible = copy.audible;
        heard.level_db = copy.level_db;
        heard.start.emitter = *index;
        heard.start.part = static_cast<Start::Part>(std::min<std::uint8_t>(which.part, 3));
        heard.start.number = which.number;
        heard.start.playable = static_cast<std::uint32_t>(playable - playables.begin());
        heard.start.began_s = which.began_s;
        heard.at = copy.at;
        heard.bearing = bearingOf(frame, moment.ears.at, copy.at);
        heard.direction = copy.direction;
        heard.terms = copy.terms;
        heard.gaveWay = copy.gaveWay;
        if (heard.gaveWay) {
            heard.gaveWay->to = emitters[heard.gaveWay->to].value_or(*index);
        }
        step->heard.push_back(heard);
    }
    for (const TakenRoom& room : moment.rooms) {
        if (const auto index = rooms[room.room]) {
            RoomHeard heard;
            heard.room = *index;
            heard.surround = 1.0;
            heard.level_db = room.level_db;
            step->rooms.push_back(heard);
        }
    }
    return step;
}

} // namespace

TakeDesk::TakeDesk(Session& session, Playback& playback, Output::Open open, QObject* parent)
    : QObject(parent), session_(session), playback_(playback), listening_(std::move(open), this)
{
    connect(&listening_, &TakeListening::failed, this, &TakeDesk::failed);
    connect(&session_, &Session::documentChanged, this, &TakeDesk::followDocument);
    connect(&session_, &Session::fileChanged, this, [this] {
        if (folder() != shelfOf_) {
            close();
            readShelf();
        }
    });
    connect(&playback_, &Playback::ticked, this, &TakeDesk::tick);
    connect(&playback_, &Playback::sceneChanged, this, &TakeDesk::followDocument);
    // What is recorded is of one engine: another output layout is another engine.
    connect(&playback_, &Playback::listeningChanged, this, [this] {
        if (recorder_ && (!playback_.listening() || !playback_.tells(recorder_))) {
            end();
        } else if (playback_.listening()) {
            close();
        }
    });
    connect(&playback_, &Playback::walkChanged, this, [this] {
        *onWalk_ = playback_.walking();
        if (recorder_ && alongWalk_ && !playback_.walking()) {
            end();
        }
    });
    connect(&finding_, &QFutureWatcherBase::finished, this, [this] {
        if (take_) {
            findings_ = finding_.result();
            emit findingsFound();
        }
    });
    readShelf();
}

TakeDesk::~TakeDesk()
{
    playback_.tell(nullptr);
    if (stopFinding_) {
        *stopFinding_ = true;
    }
    finding_.waitForFinished();
}

/// On another thread: a long take is long to go through.
void TakeDesk::find()
{
    if (stopFinding_) {
        *stopFinding_ = true;
    }
    findings_.clear();
    stopFinding_ = std::make_shared<std::atomic<bool>>(false);
    finding_.setFuture(QtConcurrent::run(&workPool(), [path = take_->path(), stop = stopFinding_] {
        try {
            // A reader of its own: the one that is looked at is asked while one scrubs.
            const Take take(path);
            return findInTake(take, [stop](double) { return !*stop; });
        } catch (const FileError&) {
            return std::vector<TakeFinding>();
        }
    }));
}

std::filesystem::path TakeDesk::folder() const
{
    return session_.path().empty() ? session_.ownState() / "takes" : session_.folder() / "takes";
}

QString TakeDesk::nextName() const
{
    std::error_code error;
    int number = static_cast<int>(shelf_.size()) + 1;
    while (std::filesystem::exists(folder() / (tr("Take %1").arg(number).toStdString() + ending), error)) {
        ++number;
    }
    return tr("Take %1").arg(number);
}

double TakeDesk::recorded_s() const
{
    return recorder_ ? recorder_->seconds() : 0.0;
}

void TakeDesk::setRecording(bool on, bool alongWalk)
{
    if (on == recording()) {
        return;
    }
    try {
        on ? begin(alongWalk) : end();
    } catch (const FileError& error) {
        recorder_.reset();
        emit failed(QString::fromStdString(error.what()));
        emit recordingChanged();
    }
}

void TakeDesk::begin(bool alongWalk)
{
    close();
    playback_.setListening(true);
    const Level& level = session_.level();
    const Walk* walk = level.walks.find(playback_.walk());
    alongWalk_ = alongWalk && walk != nullptr;
    if (alongWalk_) {
        playback_.setWalking(false);
        playback_.seekWalk(0.0);
        playback_.setWalking(true);
    }
    std::error_code error;
    std::filesystem::create_directories(folder(), error);
    TakeInfo info;
    info.project = session_.project().name;
    info.level = level.name;
    info.levelId = level.id.text;
    if (alongWalk_ || (playback_.walking() && walk != nullptr)) {
        info.walk = walk->name;
        info.walkId = walk->id.text;
    }
    info.note = note_.toStdString();
    info.layout = nameOf(playback_.layout());
    info.seed = session_.project().seed;
    info.rate = playback_.live().rate();
    info.channels = static_cast<int>(channelsOf(playback_.layout()));
    info.recorded = takeTime();
    info.machine = thisMachine();
    recordedTo_ = folder() / (nextName().toStdString() + ending);
    recorder_ = std::make_shared<TakeRecorder>(recordedTo_, info, true);
    recorder_->changed(session_.document(), {});
    recordedDocument_ = session_.document();
    recorder_->followWalk([onWalk = onWalk_](double level_s) { return *onWalk ? level_s : -1.0; });
    bumps_ = playback_.walker().bumps();
    falls_ = playback_.walker().falls();
    sinceMemory_.invalidate();
    *onWalk_ = playback_.walking();
    playback_.tell(recorder_);
    emit recordingChanged();
}

void TakeDesk::end()
{
    const std::shared_ptr<TakeRecorder> recorder = std::exchange(recorder_, nullptr);
    playback_.tell(nullptr);
    QString problem;
    try {
        recorder->finish();
    } catch (const FileError& error) {
        problem = QString::fromStdString(error.what());
    }
    emit recordingChanged();
    readShelf();
    if (problem.isEmpty()) {
        problem = open(recordedTo_);
    }
    if (!problem.isEmpty()) {
        emit failed(problem);
    }
}

void TakeDesk::followDocument()
{
    if (recorder_ && recordedDocument_ != session_.document()) {
        recorder_->changed(session_.document(), session_.history().undoName());
        recordedDocument_ = session_.document();
    }
    if (take_) {
        show(); // the same moment in the level as it is now
    }
}

/// What only the window knows of what goes on.
void TakeDesk::tick()
{
    followSound();
    if (!recorder_) {
        return;
    }
    for (; bumps_ < playback_.walker().bumps(); ++bumps_) {
        recorder_->note(TakeEvent::Kind::bump);
    }
    for (; falls_ < playback_.walker().falls(); ++falls_) {
        recorder_->note(TakeEvent::Kind::fall);
    }
    constexpr qint64 memoryEvery_ms = 1'000;
    if (!sinceMemory_.isValid() || sinceMemory_.elapsed() > memoryEvery_ms) {
        sinceMemory_.start();
        recorder_->setMemory(static_cast<double>(session_.bank().cost().bytes));
    }
    if (!recorder_->failure().empty()) {
        end();
    }
}

void TakeDesk::readShelf()
{
    shelfOf_ = folder();
    shelf_.clear();
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(shelfOf_, error)) {
        if (entry.path().extension() != ending || (recorder_ && entry.path() == recordedTo_)) {
            continue;
        }
        try {
            shelf_.push_back({entry.path(), QString::fromStdString(entry.path().stem().string()), readTakeInfo(entry.path())});
        } catch (const FileError&) {
            // What is no take is none of ours.
        }
    }
    std::stable_sort(shelf_.begin(), shelf_.end(),
                     [](const Kept& a, const Kept& b) { return a.info.recorded > b.info.recorded; });
    emit shelfChanged();
}

QString TakeDesk::rename(const std::filesystem::path& path, const QString& name)
{
    const QString wanted = name.trimmed();
    if (wanted.isEmpty() || wanted.contains('/') || wanted.startsWith('.')) {
        return tr("A take's name must not be empty, begin with a point, or have a / in it.");
    }
    const std::filesystem::path to = path.parent_path() / (wanted.toStdString() + ending);
    std::error_code error;
    if (to != path && std::filesystem::exists(to, error)) {
        return tr("There is a take called %1 already.").arg(wanted);
    }
    std::filesystem::rename(path, to, error);
    if (error) {
        return tr("%1 cannot be renamed: %2")
            .arg(QString::fromStdString(path.string()), QString::fromStdString(error.message()));
    }
    readShelf();
    if (take_ && take_->path() == path) {
        return open(to);
    }
    return {};
}

QString TakeDesk::remove(const std::filesystem::path& path)
{
    if (take_ && take_->path() == path) {
        close();
    }
    if (other_ && other_->path() == path) {
        compareWith({});
    }
    std::error_code error;
    std::filesystem::remove(path, error);
    readShelf();
    return error ? tr("%1 cannot be taken away: %2")
                       .arg(QString::fromStdString(path.string()), QString::fromStdString(error.message()))
                 : QString();
}

QString TakeDesk::open(const std::filesystem::path& path)
{
    setPlaying(false);
    try {
        take_ = std::make_shared<const Take>(path);
    } catch (const FileError& error) {
        return QString::fromStdString(error.what());
    }
    if (other_ && other_->path() == path) {
        other_.reset();
    }
    find();
    emit takeChanged();
    setCursor(0.0);
    return take_->damage().empty()
               ? QString()
               : tr("%1 is damaged, and is shown as far as it goes.").arg(QString::fromStdString(path.string()));
}

QString TakeDesk::compareWith(const std::filesystem::path& path)
{
    setPlaying(false);
    other_.reset();
    QString problem;
    if (!path.empty()) {
        try {
            other_ = std::make_shared<const Take>(path);
        } catch (const FileError& error) {
            problem = QString::fromStdString(error.what());
        }
    }
    emit takeChanged();
    return problem;
}

void TakeDesk::close()
{
    if (take_) {
        setPlaying(false);
        take_.reset();
        other_.reset();
        moment_.reset();
        findings_.clear();
        playback_.showTaken(nullptr, {});
        emit takeChanged();
    }
}

void TakeDesk::setCursor(double t_s)
{
    if (!take_) {
        return;
    }
    listening_.seek(std::clamp(t_s, 0.0, take_->seconds()));
    moveCursor(t_s);
}

void TakeDesk::moveCursor(double t_s)
{
    cursor_s_ = std::clamp(t_s, 0.0, take_->seconds());
    show();
    emit cursorMoved();
}

QString TakeDesk::makeWalk()
{
    if (!take_) {
        return {};
    }
    Walk walk = walkOf(*take_, session_.project());
    if (walk.points.empty()) {
        return tr("Nobody went anywhere in this take: it is too short to be a walk.");
    }
    walk.name = tr("As in %1").arg(QString::fromStdString(take_->path().stem().string())).toStdString();
    playback_.chooseWalk(session_.addThing(std::move(walk)));
    return {};
}

void TakeDesk::setPlaying(bool on)
{
    if (on == playing() || (on && !take_)) {
        return;
    }
    if (on) {
        const double from_s = cursor_s_ + takeStep_s < take_->seconds() ? cursor_s_ : 0.0;
        listening_.choose(playback_.output().chosen());
        if (const QString problem = listening_.begin(*take_, other_, from_s); !problem.isEmpty()) {
            emit failed(problem);
        }
    } else {
        listening_.end();
    }
    emit playingChanged();
}

void TakeDesk::hearOther(bool other)
{
    listening_.hearOther(other && other_ != nullptr);
    emit playingChanged();
}

/// The cursor goes along with what is heard.
void TakeDesk::followSound()
{
    // What is shown says that time has passed: this is called again in between.
    if (!playing() || following_) {
        return;
    }
    following_ = true;
    listening_.watch();
    moveCursor(listening_.position_s());
    following_ = false;
    if (listening_.over()) {
        setPlaying(false);
    }
}

/// Everything else shows the moment under the cursor as it was.
void TakeDesk::show()
{
    moment_ = take_->momentAt(cursor_s_ + takeStep_s / 2.0);
    if (moment_) {
        playback_.showTaken(asHeard(*take_, *moment_, playback_.shownScene()), moment_->feet);
    }
}

} // namespace stone
