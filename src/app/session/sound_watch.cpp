// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/sound_watch.h"

#include <QCryptographicHash>
#include <QFile>
#include <QSaveFile>
#include <QTextStream>

#include <utility>
#include <vector>

namespace stone
{

namespace
{

constexpr int soundSettled_ms = 300;
constexpr int keep_ms = 2'000;

std::string stampOf(const std::filesystem::path& path)
{
    std::error_code error;
    const auto size = std::filesystem::file_size(path, error);
    if (error) {
        return {};
    }
    const auto time = std::filesystem::last_write_time(path, error).time_since_epoch().count();
    return std::to_string(size) + '|' + std::to_string(time);
}

QString inQt(const std::filesystem::path& path)
{
    return QString::fromStdString(path.string());
}

} // namespace

SoundWatch::SoundWatch(std::filesystem::path records, QObject* parent) : QObject(parent), records_(std::move(records))
{
    quiet_.setSingleShot(true);
    quiet_.setInterval(soundSettled_ms);
    keepSoon_.setSingleShot(true);
    keepSoon_.setInterval(keep_ms);
    connect(&quiet_, &QTimer::timeout, this, &SoundWatch::settle);
    connect(&keepSoon_, &QTimer::timeout, this, &SoundWatch::keep);
    // Programs save in place, or write beside it and rename: the folder hears of both, but not of writing in place.
    connect(&watcher_, &QFileSystemWatcher::fileChanged, &quiet_, qOverload<>(&QTimer::start));
    connect(&watcher_, &QFileSystemWatcher::directoryChanged, &quiet_, qOverload<>(&QTimer::start));
}

std::filesystem::path SoundWatch::recordOf(const std::filesystem::path& document) const
{
    if (records_.empty() || document.empty()) {
        return {};
    }
    const QByteArray name = QCryptographicHash::hash(QByteArray::fromStdString(document.string()), QCryptographicHash::Sha1);
    return records_ / (name.toHex().toStdString() + ".files");
}

void SoundWatch::setDocument(const std::filesystem::path& document)
{
    if (keepSoon_.isActive()) {
        keepSoon_.stop();
        keep();
    }
    document_ = document;
    watched_.clear();
    sources_.clear();
    contents_.clear();
    rewatch();
    const std::filesystem::path kept = recordOf(document);
    QFile record(inQt(kept));
    if (kept.empty() || !record.open(QIODevice::ReadOnly | QIODevice::Text)) {
        return;
    }
    QTextStream in(&record);
    while (!in.atEnd()) {
        const QString line = in.readLine();
        const qsizetype space = line.indexOf(' ');
        if (space > 0) {
            contents_[line.mid(space + 1).toStdString()] = line.left(space).toStdString();
        }
    }
}

void SoundWatch::add(const std::string& file, const std::filesystem::path& path, bool source)
{
    const auto [known, added] = watched_.try_emplace({file, source}, Watched{path, {}, source});
    if (added || known->second.path != path) {
        known->second = {path, stampOf(path), source};
    }
}

void SoundWatch::watch(const std::map<std::string, std::filesystem::path>& files)
{
    std::erase_if(watched_, [&](const auto& entry) { return !files.contains(entry.first.first); });
    for (const auto& [file, path] : files) {
        add(file, path, false);
        if (const auto source = sources_.find(file); source != sources_.end()) {
            add(file, source->second, true);
        }
    }
    rewatch();
}

void SoundWatch::rewatch()
{
    QSet<QString> wanted;
    std::error_code error;
    for (const auto& [key, watched] : watched_) {
        if (std::filesystem::exists(watched.path, error)) {
            wanted.insert(inQt(watched.path));
        }
        if (std::filesystem::is_directory(watched.path.parent_path(), error)) {
            wanted.insert(inQt(watched.path.parent_path()));
        }
    }
    const QStringList list = watcher_.files() + watcher_.directories();
    const QSet<QString> now(list.begin(), list.end());
    if (const QSet<QString> gone = now - wanted; !gone.isEmpty()) {
        watcher_.removePaths(gone.values());
    }
    if (const QSet<QString> more = wanted - now; !more.isEmpty()) {
        watcher_.addPaths(more.values());
    }
}

void SoundWatch::settle()
{
    std::vector<std::pair<std::string, bool>> other;
    for (auto& [key, watched] : watched_) {
        // What is not there just now may be on its way to be replaced: its folder tells when it is there again.
        const std::string stamp = stampOf(watched.path);
        if (!stamp.empty() && stamp != std::exchange(watched.stamp, stamp)) {
            other.push_back(key);
        }
    }
    rewatch();
    for (const auto& [file, source] : other) {
        if (source) {
            emit sourceChanged(file);
        } else {
            emit changed(file);
        }
    }
}

void SoundWatch::copiedFrom(const std::string& file, const std::filesystem::path& source)
{
    sources_[file] = source;
}

std::filesystem::path SoundWatch::sourceOf(const std::string& file) const
{
    const auto found = sources_.find(file);
    return found != sources_.end() ? found->second : std::filesystem::path{};
}

void SoundWatch::know(const std::string& file, const std::string& content)
{
    if (!content.empty() && std::exchange(contents_[file], content) != content) {
        keepSoon_.start();
    }
}

std::string SoundWatch::knownContent(const std::string& file) const
{
    const auto found = contents_.find(file);
    return found != contents_.end() ? found->second : std::string();
}

void SoundWatch::keep()
{
    const std::filesystem::path record = recordOf(document_);
    std::error_code error;
    if (record.empty() || (std::filesystem::create_directories(records_, error), error)) {
        return;
    }
    QSaveFile out(inQt(record));
    if (!out.open(QIODevice::WriteOnly | QIODevice::Text)) {
        return;
    }
    for (const auto& [file, content] : contents_) {
        if (file.find('\n') == std::string::npos) {
            out.write(QByteArray::fromStdString(content + ' ' + file + '\n'));
        }
    }
    out.commit();
}

} // namespace stone
