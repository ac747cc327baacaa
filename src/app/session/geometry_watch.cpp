// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/geometry_watch.h"

#include <QString>

#include <algorithm>
#include <vector>

namespace stone
{

namespace
{

constexpr int quiet_ms = 300;

/// Whether a file can be part of a level: buffers of a glTF, materials of an OBJ.
bool belongs(const std::filesystem::path& path)
{
    return path.extension() == ".bin" || path.extension() == ".mtl";
}

} // namespace

GeometryWatch::GeometryWatch(QObject* parent) : QObject(parent)
{
    quiet_.setSingleShot(true);
    quiet_.setInterval(quiet_ms);
    connect(&quiet_, &QTimer::timeout, this, &GeometryWatch::settle);
    // Programs save in place, or write beside it and rename: the folder hears of both, but not of writing in place.
    connect(&watcher_, &QFileSystemWatcher::fileChanged, &quiet_, qOverload<>(&QTimer::start));
    connect(&watcher_, &QFileSystemWatcher::directoryChanged, &quiet_, qOverload<>(&QTimer::start));
}

void GeometryWatch::watch(const std::filesystem::path& file)
{
    if (const QStringList old = watcher_.files() + watcher_.directories(); !old.empty()) {
        watcher_.removePaths(old);
    }
    file_ = file;
    stamp_ = stamp();
    if (!file_.empty()) {
        watcher_.addPaths({QString::fromStdString(file_.string()), QString::fromStdString(file_.parent_path().string())});
    }
}

void GeometryWatch::settle()
{
    std::error_code error;
    if (file_.empty() || !std::filesystem::exists(file_, error)) {
        return; // somebody is replacing it: the folder changes again when it is there
    }
    const QString name = QString::fromStdString(file_.string());
    if (!watcher_.files().contains(name)) {
        watcher_.addPath(name);
    }
    if (const std::string now = stamp(); now != stamp_) {
        stamp_ = now;
        emit changed();
    }
}

std::string GeometryWatch::stamp() const
{
    std::vector<std::string> stamps;
    std::error_code error;
    const auto add = [&](const std::filesystem::path& path) {
        const auto time = std::filesystem::last_write_time(path, error).time_since_epoch().count();
        stamps.push_back(path.string() + '|' + std::to_string(time) + '|' +
                         std::to_string(std::filesystem::file_size(path, error)));
    };
    if (!file_.empty()) {
        add(file_);
        for (const auto& entry : std::filesystem::directory_iterator(file_.parent_path(), error)) {
            if (belongs(entry.path())) {
                add(entry.path());
            }
        }
    }
    std::sort(stamps.begin(), stamps.end());
    std::string all;
    for (const std::string& one : stamps) {
        all += one + '\n';
    }
    return all;
}

} // namespace stone
