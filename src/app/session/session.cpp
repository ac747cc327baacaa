// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/session.h"

#include "app/session/work_pool.h"

#include "project/violations.h"

#include <QtConcurrent/QtConcurrentRun>

#include <utility>

namespace stone
{

Session::Session(int rate, std::filesystem::path state, const std::filesystem::path& cache, QObject* parent)
    : QObject(parent), state_(std::move(state)), journal_(state_),
      bank_(rate, {Measure::all, std::make_shared<const MeasureStore>(measuresFolder(cache))}),
      history_(std::make_shared<const Project>(blankProject())), watch_(cache.empty() ? cache : cache / "files")
{
    common_ = document();
    levelId_ = project().levels[0]->id;
    (void)QtConcurrent::run(&workPool(), [measures = bank_.measures()] { measures->clearUnused(); });
    // Many that come at once are one change.
    bank_.onLoaded([this] {
        if (!toldOfSounds_.exchange(true)) {
            QMetaObject::invokeMethod(
                this,
                [this] {
                    toldOfSounds_ = false;
                    emit soundsChanged();
                },
                Qt::QueuedConnection);
        }
    });
    journal_.onTrouble([this](const std::string& trouble) {
        QMetaObject::invokeMethod(
            this, [this, why = QString::fromStdString(trouble)] { emit keepingTroubled(why); }, Qt::QueuedConnection);
    });
    untilWatched_.setSingleShot(true);
    untilWatched_.setInterval(300);
    connect(&untilWatched_, &QTimer::timeout, this, &Session::watchSounds);
    connect(this, &Session::soundsChanged, this, &Session::watchSoon);
    connect(this, &Session::documentChanged, this, [this] {
        if (!watchedSounds_.shares(history_.current()->sounds)) {
            watchSoon();
        }
    });
    connect(&watch_, &SoundWatch::changed, this, [this](const std::string& file) {
        bank_.readAgain(resolve(file));
        emit soundReread(QString::fromStdString(file));
    });
    connect(&watch_, &SoundWatch::sourceChanged, this,
            [this](const std::string& file) { emit sourceChanged(QString::fromStdString(file)); });
    connect(&geometry_, &LevelLoader::changed, this, &Session::levelChanged);
    connect(&geometry_, &LevelLoader::failed, this, &Session::failed);
    connect(&geometry_, &LevelLoader::read, this, [this](bool again) {
        ways_.look(project(), level(), loadedLevel().ground);
        if (again) {
            emit geometryReloaded();
        }
        emit levelChanged();
        examiner_.lookSoon();
    });
    connect(this, &Session::soundsChanged, &examiner_, &Examiner::lookSoon);
    connect(&examiner_, &Examiner::changed, this, &Session::findingsChanged);
    connect(&ways_, &WayFinder::edgesFound, this, [this] {
        emit edgesFound();
        // Pulses begin to tell of them, and what is planted along them comes up.
        const auto& emitters = level().emitters;
        const auto& plants = level().plants;
        if (std::any_of(emitters.begin(), emitters.end(), [](const auto& e) { return e->kind == EmitterKind::pulse; }) ||
            std::any_of(plants.begin(), plants.end(), [](const auto& plant) { return needsEdges(plant->where); })) {
            emit waysFound();
        }
    });
    connect(&ways_, &WayFinder::found, this, [this] {
        emit waysFound();
        examiner_.lookSoon();
    });
}

Session::~Session()
{
    bank_.onLoaded({});
    journal_.onTrouble({});
}

const Level& Session::level() const
{
    return *levelOrFirst(project(), levelId_);
}

std::shared_ptr<const FloorEdges> Session::floorEdges() const
{
    const auto& ground = loadedLevel().ground;
    return ground ? ground->foundEdges(level().edges, level().character.start) : nullptr;
}

void Session::adopt(std::shared_ptr<const Project> document, std::filesystem::path path, std::vector<ReadNotice> notices)
{
    kept_.reset();
    seen_.reset();
    history_ = History(std::move(document));
    path_ = std::move(path);
    notices_ = std::move(notices);
    common_ = this->document();
    files_.setDocument(path_);
    watchAnew(path_);
    bank_.forgetAll();
    examiner_.forget();
    levelId_ = project().levels[0]->id;
    selected_ = {};
    emit adopted();
    emit selectionChanged();
    afterChange();
}

void Session::edit(Project next, const QString& name, const QString& gesture)
{
    if (seen_) {
        emit failed(tr("This is how it was (%1). Nothing was changed: F11 shows it as it is now").arg(seen_->name));
        emit documentChanged(); // as below
        return;
    }
    const auto before = history_.current();
    if (const auto wrong = violationIn(next, *before)) {
        emit failed(tr("%1. Nothing was changed").arg(QString::fromStdString(wrong->text())));
        emit documentChanged(); // who shows what was typed shows again what holds
        return;
    }
    history_.commit(std::move(next), name.toStdString(), gesture.toStdString());
    if (history_.current() != before) {
        afterChange();
    }
}

void Session::undo()
{
    lookAt({});
    history_.undo();
    afterChange();
}

void Session::redo()
{
    lookAt({});
    history_.redo();
    afterChange();
}

void Session::keepState(const QString& name)
{
    kept_ = KeptState{name, history_.current()};
    emit fileChanged();
}

Session::KeptState Session::before() const
{
    return kept_ ? *kept_ : KeptState{path_.empty() ? tr("as it was begun") : tr("the last save"), history_.saved()};
}

void Session::lookAt(std::optional<KeptState> state)
{
    if (!seen_ && !state) {
        return;
    }
    if (!seen_) {
        selectedBefore_ = selected_;
    }
    history_.endGesture();
    seen_ = std::move(state);
    afterChange();
    if (!seen_ && selected_ != selectedBefore_) {
        selected_ = selectedBefore_;
        emit selectionChanged();
    }
}

QString Session::undoName() const
{
    return QString::fromStdString(history_.undoName());
}

QString Session::redoName() const
{
    return QString::fromStdString(history_.redoName());
}

void Session::afterChange()
{
    keepJournal();
    if (project().levels.find(levelId_) == nullptr) {
        levelId_ = project().levels[0]->id;
    }
    const bool fewer = dropGone();
    geometry_.load(level(), files_);
    ways_.look(project(), level(), loadedLevel().ground);
    emit documentChanged();
    if (fewer) {
        emit selectionChanged();
    }
    emit fileChanged();
    examiner_.lookSoon();
}

void Session::showLevel(const LevelId& id)
{
    if (id == levelId_ || project().levels.find(id) == nullptr) {
        return;
    }
    levelId_ = id;
    selectNone();
    geometry_.load(level(), files_);
    ways_.look(project(), level(), loadedLevel().ground);
    emit documentChanged();
    emit levelChanged();
}

Examiner::Question Session::examined() const
{
    std::vector<LevelGeometry> geometry;
    if (!geometry_.loading() && geometry_.expected()) {
        geometry.push_back({levelId_, loadedLevel().ground, loadedLevel().error});
    }
    return {document(), notices_, std::move(geometry), files_, output_};
}

void Session::setOutput(const std::optional<OutputInUse>& output)
{
    if (output != output_) {
        output_ = output;
        examiner_.lookSoon();
    }
}

} // namespace stone
