// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/level_loader.h"

#include "app/session/work_pool.h"

#include "level/read_geometry.h"
#include "project/file_error.h"

#include <QImageReader>
#include <QtConcurrent/QtConcurrentRun>

#include <utility>

namespace stone
{

namespace
{

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
        const auto ground = readGround(file, std::get<GeometryFile>(geometry).up, metresPerUnit);
        loaded.cutter = std::make_shared<const PlanCutter>(ground->mesh());
        for (const Looking looking : {Looking::north, Looking::west}) {
            loaded.sections[static_cast<std::size_t>(looking)] = std::make_shared<const SectionCutter>(ground->mesh(), looking);
        }
        loaded.ground = ground;
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

std::string keyOf(const Level& level, const ProjectFiles& files)
{
    const std::string file = fileOf(level.geometry);
    const auto* mesh = std::get_if<GeometryFile>(&level.geometry);
    return file.empty() ? std::string{}
                        : files.folder().string() + '|' + file + '|' + std::to_string(level.metresPerUnit) + '|' +
                              (mesh != nullptr && mesh->up == UpAxis::z ? 'z' : 'y');
}

} // namespace

LevelLoader::LevelLoader(QObject* parent) : QObject(parent)
{
    connect(&watcher_, &QFutureWatcher<LoadedLevel>::finished, this, &LevelLoader::take);
    connect(&watch_, &GeometryWatch::changed, this, &LevelLoader::readFile);
}

LevelLoader::~LevelLoader()
{
    watcher_.waitForFinished();
}

void LevelLoader::load(const Level& level, const ProjectFiles& files)
{
    const std::string key = keyOf(level, files);
    if (key == key_) {
        return;
    }
    key_ = key;
    loaded_ = {};
    geometry_ = level.geometry;
    metresPerUnit_ = level.metresPerUnit;
    if (key.empty()) {
        watch_.watch({});
        reading_ = false;
    } else {
        file_ = files.resolve(fileOf(geometry_));
        watch_.watch(file_);
        readFile();
    }
    emit changed();
}

void LevelLoader::readFile()
{
    reading_ = true;
    watcher_.setFuture(QtConcurrent::run(&workPool(), readLevel, geometry_, file_, metresPerUnit_));
}

void LevelLoader::take()
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
    emit this->read(again);
}

QStringList LevelLoader::solidNodes() const
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

} // namespace stone
