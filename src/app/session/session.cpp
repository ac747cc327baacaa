#include "app/session/session.h"

#include "engine/scene.h"
#include "level/level_files.h"
#include "level/mesh_import.h"
#include "project/read.h"
#include "project/violations.h"

#include <QFileInfo>
#include <QImageReader>
#include <QtConcurrent/QtConcurrentRun>

#include <algorithm>
#include <utility>

namespace stone
{

namespace
{

std::filesystem::path pathOf(const QString& file)
{
    return {file.toStdString()};
}

/// Of a picture under the sheet: four bytes each once it is unpacked, 128 MiB, which is also where Qt gives up.
constexpr qint64 mostPixels = 32LL << 20;

/// Reads geometry or picture. Runs on a thread of the pool.
LoadedLevel readLevel(const Geometry& geometry, const std::filesystem::path& file, double metresPerUnit)
{
    LoadedLevel loaded;
    if (std::holds_alternative<std::monostate>(geometry)) {
        return loaded;
    }
    if (file.empty()) {
        loaded.error = "the level's file leads outside the project's folder and is not read; choose it again";
        return loaded;
    }
    if (std::holds_alternative<GeometryPicture>(geometry)) {
        // Only files: a pipe would be waited for until somebody writes into it.
        std::error_code ignored;
        if (std::filesystem::is_regular_file(file, ignored)) {
            QImageReader reader(QString::fromStdString(file.string()));
            const QSize size = reader.size();
            if (qint64{size.width()} * size.height() > mostPixels) {
                loaded.error = file.string() + ": the picture has more than " + std::to_string(mostPixels >> 20) +
                               " million pixels; make it smaller";
                return loaded;
            }
            loaded.picture = reader.read();
        }
        if (loaded.picture.isNull()) {
            loaded.error = file.string() + ": not a picture that can be read; choose a PNG or JPEG";
        }
        return loaded;
    }
    try {
        const bool zUp = std::get<GeometryFile>(geometry).up == UpAxis::z;
        const auto mesh = std::make_shared<const Mesh>(importMesh(file, {metresPerUnit, zUp}));
        loaded.cutter = std::make_shared<const PlanCutter>(*mesh);
        for (const Looking looking : {Looking::north, Looking::west}) {
            loaded.sections[static_cast<std::size_t>(looking)] = std::make_shared<const SectionCutter>(*mesh, looking);
        }
        loaded.ground = std::make_shared<const Ground>(mesh);
    } catch (const FileError& error) {
        loaded.error = error.what();
    }
    return loaded;
}

std::string fileOf(const Geometry& geometry)
{
    if (const auto* file = std::get_if<GeometryFile>(&geometry)) {
        return file->file;
    }
    const auto* picture = std::get_if<GeometryPicture>(&geometry);
    return picture != nullptr ? picture->file : std::string{};
}

QString notCopied(const QString& file, const std::filesystem::filesystem_error& error)
{
    return Session::tr("%1 cannot be copied into the project (%2); make room or check the rights of its folder")
        .arg(file, QString::fromStdString(error.code().message()));
}

} // namespace

Session::Session(int rate, std::filesystem::path state, const std::filesystem::path& cache, QObject* parent)
    : QObject(parent), state_(std::move(state)), journal_(state_),
      bank_(rate, {Measure::all, std::make_shared<const MeasureStore>(measuresFolder(cache))}),
      history_(std::make_shared<const Project>(blankProject()))
{
    common_ = document();
    levelId_ = project().levels[0]->id;
    (void)QtConcurrent::run([measures = bank_.measures()] { measures->clearUnused(); });
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
    connect(&watcher_, &QFutureWatcher<LoadedLevel>::finished, this, &Session::takeGeometry);
    connect(&geometryWatch_, &GeometryWatch::changed, this, &Session::readGeometry);
    connect(this, &Session::soundsChanged, &examiner_, &Examiner::lookSoon);
    connect(&examiner_, &Examiner::changed, this, &Session::findingsChanged);
    connect(&ways_, &WayFinder::found, this, [this] {
        emit waysFound();
        examiner_.lookSoon();
    });
}

Session::~Session()
{
    bank_.onLoaded({});
    journal_.onTrouble({});
    watcher_.waitForFinished();
}

const Level& Session::level() const
{
    return *levelOrFirst(project(), levelId_);
}

void Session::adopt(std::shared_ptr<const Project> document, std::filesystem::path path, std::vector<ReadNotice> notices)
{
    history_ = History(std::move(document));
    path_ = std::move(path);
    notices_ = std::move(notices);
    common_ = this->document();
    files_.setDocument(path_);
    bank_.forgetAll();
    levelId_ = project().levels[0]->id;
    selection_.clear();
    primary_ = {};
    emit adopted();
    emit selectionChanged();
    afterChange();
}

void Session::edit(Project next, const QString& name, const QString& gesture)
{
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
    history_.undo();
    afterChange();
}

void Session::redo()
{
    history_.redo();
    afterChange();
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
    const std::size_t before = selection_.size();
    std::erase_if(selection_, [this](const EmitterId& id) { return level().emitters.find(id) == nullptr; });
    if (level().emitters.find(primary_) == nullptr) {
        primary_ = selection_.empty() ? EmitterId{} : *selection_.begin();
    }
    loadLevel();
    ways_.look(project(), level(), loaded_.ground);
    emit documentChanged();
    if (selection_.size() != before) {
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
    loadLevel();
    ways_.look(project(), level(), loaded_.ground);
    emit documentChanged();
    emit levelChanged();
}

std::string Session::geometryKey() const
{
    const Level& shown = level();
    const std::string file = fileOf(shown.geometry);
    const auto* mesh = std::get_if<GeometryFile>(&shown.geometry);
    return file.empty() ? std::string{}
                        : folder().string() + '|' + file + '|' + std::to_string(shown.metresPerUnit) + '|' +
                              (mesh != nullptr && mesh->up == UpAxis::z ? 'z' : 'y');
}

void Session::loadLevel()
{
    const std::string key = geometryKey();
    if (key == loadedKey_) {
        return;
    }
    loadedKey_ = key;
    loaded_ = {};
    const Level& shown = level();
    const std::string file = fileOf(shown.geometry);
    if (key.empty()) {
        geometryWatch_.watch({});
        reading_ = false;
        emit levelChanged();
        return;
    }
    geometryWatch_.watch(resolve(file));
    readGeometry();
    emit levelChanged();
}

void Session::readGeometry()
{
    const Level& shown = level();
    reading_ = true;
    watcher_.setFuture(QtConcurrent::run(readLevel, shown.geometry, resolve(fileOf(shown.geometry)), shown.metresPerUnit));
}

void Session::takeGeometry()
{
    if (!std::exchange(reading_, false)) {
        return; // a level without geometry was shown in the meantime
    }
    LoadedLevel read = watcher_.result();
    const bool again = loaded_.ground != nullptr;
    if (again && !read.error.empty()) {
        // Half a file while somebody saves it, or a broken one: what was read before is better than nothing.
        emit failed(tr("The level's file was changed and cannot be read any more: %1. The level goes on as it was before")
                        .arg(QString::fromStdString(read.error)));
        return;
    }
    loaded_ = std::move(read);
    ways_.look(project(), level(), loaded_.ground);
    if (again) {
        emit geometryReloaded();
    }
    emit levelChanged();
    examiner_.lookSoon();
}

QStringList Session::solidNodes() const
{
    QStringList names;
    if (const Mesh* mesh = loaded_.mesh()) {
        for (const Mesh::Node& node : mesh->nodes) {
            if (node.triangleCount > 0) {
                names << QString::fromStdString(node.name);
            }
        }
    }
    return names;
}

SoundBank::Entry Session::soundEntry(const Sound& sound, std::size_t file) const
{
    if (file >= sound.files.size()) {
        return {SoundBank::State::failed, {}, sound.name + ": has no file; choose one"};
    }
    const SoundFile& asked = sound.files[file];
    const std::filesystem::path path = resolve(asked.file);
    if (path.empty()) {
        return {SoundBank::State::failed, {}, asked.file + ": cannot be found"};
    }
    return bank_.get(path, isLooped(sound, asked), sound.keeping);
}

QString Session::takeIn(const QString& file, const QString& subfolder)
{
    try {
        return QString::fromStdString(files_.takeIn(pathOf(file), subfolder.toStdString(), filesBeside(pathOf(file))));
    } catch (const std::filesystem::filesystem_error& error) {
        throw FileError(notCopied(file, error).toStdString());
    }
}

std::vector<SoundId> Session::addSounds(const QStringList& files)
{
    std::vector<SoundId> ids;
    Project next = project();
    for (const QString& file : files) {
        if (!QFileInfo(file).isFile()) {
            emit failed(tr("%1 is not a file; drop sound files or choose them with Add sounds").arg(file));
            continue;
        }
        try {
            Sound sound;
            sound.name = QFileInfo(file).completeBaseName().toStdString();
            sound.id = next.sounds.freshId(sound.name);
            sound.files.push_back({.file = takeIn(file, "sounds").toStdString()});
            ids.push_back(sound.id);
            next.sounds.put(std::move(sound));
        } catch (const FileError& error) {
            emit failed(error.what());
        }
    }
    if (!ids.empty()) {
        edit(std::move(next), ids.size() == 1 ? tr("Add sound %1").arg(QFileInfo(files.first()).completeBaseName())
                                              : tr("Add %1 sounds").arg(ids.size()));
    }
    return ids;
}

void Session::addFiles(const SoundId& id, const QStringList& files)
{
    std::vector<SoundFile> taken;
    for (const QString& file : files) {
        try {
            taken.push_back({.file = takeIn(file, "sounds").toStdString()});
        } catch (const FileError& error) {
            emit failed(error.what());
        }
    }
    if (taken.empty()) {
        return;
    }
    editSound(id, taken.size() == 1 ? tr("a file more") : tr("%1 files more").arg(taken.size()), {}, [&](Sound& sound) {
        // Variations of which all copies take the same would be no variations.
        sound.copiesApart = sound.copiesApart || sound.files.size() <= 1;
        sound.files.insert(sound.files.end(), taken.begin(), taken.end());
    });
}

void Session::relocateSound(const SoundId& id, std::size_t which, const QString& file)
{
    try {
        const std::string inside = takeIn(file, "sounds").toStdString();
        bank_.forget(resolve(inside));
        editSound(id, tr("relocated"), {}, [&](Sound& sound) {
            if (which <= sound.files.size()) {
                sound.files.resize(std::max(sound.files.size(), which + 1));
                sound.files[which].file = inside;
            }
        });
    } catch (const FileError& error) {
        emit failed(error.what());
    }
}

const Emitter* Session::primary() const
{
    return level().emitters.find(primary_);
}

int Session::indexOf(const EmitterId& id) const
{
    const auto& emitters = level().emitters;
    for (std::size_t i = 0; i < emitters.size(); ++i) {
        if (emitters[i]->id == id) {
            return static_cast<int>(i);
        }
    }
    return -1;
}

int Session::primaryIndex() const
{
    return indexOf(primary_);
}

const Emitter* Session::subject() const
{
    const Emitter* kept = level().emitters.find(pinned_);
    return kept != nullptr ? kept : primary();
}

int Session::subjectIndex() const
{
    const Emitter* emitter = subject();
    return emitter != nullptr ? indexOf(emitter->id) : -1;
}

void Session::pin(bool on)
{
    const Emitter* emitter = on ? subject() : nullptr;
    pinned_ = emitter != nullptr ? emitter->id : EmitterId{};
    emit selectionChanged();
}

void Session::select(std::set<EmitterId> ids, const EmitterId& primary)
{
    if (ids == selection_ && primary == primary_ && zone_.empty() && room_.empty() && opening_.empty()) {
        return;
    }
    dropSpaces();
    selection_ = std::move(ids);
    primary_ = selection_.contains(primary) ? primary : selection_.empty() ? EmitterId{} : *selection_.begin();
    history_.endGesture();
    emit selectionChanged();
}

EmitterId Session::addEmitter(const SoundId& soundId, const Vec3& at)
{
    const Sound* sound = project().sounds.find(soundId);
    Emitter emitter;
    emitter.name = sound != nullptr ? sound->name : "Emitter";
    emitter.at = at;
    emitter.sound = soundId;
    return addEmitter(std::move(emitter));
}

void Session::dropSpaces()
{
    zone_ = {};
    room_ = {};
    opening_ = {};
}

void Session::selectZone(const ZoneId& id)
{
    selection_.clear();
    primary_ = {};
    dropSpaces();
    zone_ = id;
    history_.endGesture();
    emit selectionChanged();
}

void Session::selectRoom(const RoomId& id)
{
    selectZone({});
    room_ = id;
    emit selectionChanged();
}

void Session::selectOpening(const OpeningId& id)
{
    selectZone({});
    opening_ = id;
    emit selectionChanged();
}

RoomId Session::addRoom(Room what)
{
    what.id = level().rooms.freshId(what.name);
    const RoomId id = what.id;
    const QString name = tr("Draw the room %1").arg(QString::fromStdString(what.name));
    edit(withLevel(project(), levelId_, [&](Level& l) { l.rooms.put(std::move(what)); }), name);
    selectRoom(id);
    return id;
}

void Session::addSpaces(const std::vector<Room>& rooms, const std::vector<Opening>& openings, const QString& name)
{
    edit(withLevel(project(), levelId_,
                   [&](Level& l) {
                       for (Room room : rooms) {
                           room.id = l.rooms.freshId(room.name);
                           l.rooms.append(std::move(room));
                       }
                       for (Opening opening : openings) {
                           opening.id = l.openings.freshId(opening.name);
                           l.openings.append(std::move(opening));
                       }
                   }),
         name);
}

OpeningId Session::addOpening(Opening what)
{
    what.id = level().openings.freshId(what.name);
    const OpeningId id = what.id;
    const QString name = tr("Draw the opening %1").arg(QString::fromStdString(what.name));
    edit(withLevel(project(), levelId_, [&](Level& l) { l.openings.put(std::move(what)); }), name);
    selectOpening(id);
    return id;
}

ZoneId Session::addZone(Zone what)
{
    what.id = level().zones.freshId(what.name);
    const ZoneId id = what.id;
    const QString name = tr("Draw the zone %1").arg(QString::fromStdString(what.name));
    edit(withLevel(project(), levelId_, [&](Level& l) { l.zones.put(std::move(what)); }), name);
    selectZone(id);
    return id;
}

EmitterId Session::addEmitter(Emitter emitter)
{
    emitter.id = level().emitters.freshId(emitter.name);
    const auto* shared = std::get_if<FalloffId>(&emitter.falloff);
    if (!project().falloffs.empty() && shared != nullptr && shared->empty()) {
        emitter.falloff = project().falloffs[0]->id;
    }
    const EmitterId id = emitter.id;
    const QString name = tr("Place %1").arg(QString::fromStdString(emitter.name));
    edit(withLevel(project(), levelId_, [&](Level& l) { l.emitters.put(std::move(emitter)); }), name);
    selectOnly(id);
    return id;
}

void Session::deleteSelected()
{
    if (const Zone* gone = zone()) {
        const ZoneId id = gone->id;
        const QString name = tr("Delete the zone %1").arg(QString::fromStdString(gone->name));
        zone_ = {};
        edit(withLevel(project(), levelId_, [&](Level& l) { l.zones.remove(id); }), name);
        emit selectionChanged();
        return;
    }
    if (const Room* gone = room()) {
        const RoomId id = gone->id;
        const QString called = QString::fromStdString(gone->name);
        dropSpaces();
        edit(withLevel(project(), levelId_, [&](Level& l) { l.rooms.remove(id); }), tr("Delete the room %1").arg(called));
        emit selectionChanged();
        return;
    }
    if (const Opening* gone = opening()) {
        const OpeningId id = gone->id;
        const QString called = QString::fromStdString(gone->name);
        dropSpaces();
        edit(withLevel(project(), levelId_, [&](Level& l) { l.openings.remove(id); }), tr("Delete the opening %1").arg(called));
        emit selectionChanged();
        return;
    }
    if (selection_.empty()) {
        return;
    }
    const QString name = selection_.size() == 1 && primary() != nullptr
                             ? tr("Delete %1").arg(QString::fromStdString(primary()->name))
                             : tr("Delete %1 emitters").arg(selection_.size());
    edit(withLevel(project(), levelId_,
                   [&](Level& l) { l.emitters.removeIf([&](const Emitter& e) { return selection_.contains(e.id); }); }),
         name);
}

void Session::duplicateSelected()
{
    std::set<EmitterId> copies;
    EmitterId last;
    Project next = withLevel(project(), levelId_, [&](Level& l) {
        for (const EmitterId& id : selection_) {
            if (const Emitter* found = l.emitters.find(id)) {
                Emitter copy = *found;
                copy.id = l.emitters.freshId(copy.name);
                copy.at += Vec3{1.0, -1.0, 0.0};
                last = copy.id;
                copies.insert(copy.id);
                l.emitters.put(std::move(copy));
            }
        }
    });
    if (copies.empty()) {
        return;
    }
    edit(std::move(next), copies.size() == 1
                              ? tr("Duplicate %1").arg(QString::fromStdString(level().emitters.find(*selection_.begin())->name))
                              : tr("Duplicate %1 emitters").arg(copies.size()));
    select(copies, last);
}

void Session::moveSelected(const Vec3& by, const QString& gesture)
{
    Project next = withLevel(project(), levelId_, [&](Level& l) {
        for (const EmitterId& id : selection_) {
            if (const Emitter* found = l.emitters.find(id)) {
                Emitter moved = *found;
                moved.at += by;
                for (Stop& stop : moved.roaming.stops) {
                    stop.at += by;
                }
                l.emitters.put(std::move(moved));
            }
        }
    });
    QString name = tr("Move %1 emitters").arg(selection_.size());
    if (selection_.size() == 1) {
        const Emitter* moved = next.levels.find(levelId_)->emitters.find(*selection_.begin());
        name = by.z != 0.0 ? tr("Move %1 to %2 m up").arg(QString::fromStdString(moved->name)).arg(moved->at.z, 0, 'f', 2)
                           : tr("Move %1 to %2, %3 m")
                                 .arg(QString::fromStdString(moved->name))
                                 .arg(moved->at.x, 0, 'f', 1)
                                 .arg(moved->at.y, 0, 'f', 1);
    }
    edit(std::move(next), name, gesture);
}

Examiner::Question Session::examined() const
{
    std::vector<LevelGeometry> geometry;
    if (!loadingLevel() && !loadedKey_.empty()) {
        geometry.push_back({levelId_, loaded_.ground, loaded_.error});
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
