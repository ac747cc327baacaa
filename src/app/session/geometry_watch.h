// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFileSystemWatcher>
#include <QObject>
#include <QTimer>

#include <filesystem>
#include <string>

namespace stone
{

/// Says when a level's file, or one beside it that belongs to it, has become another on the disk: once when it has been left
/// alone for a moment, however it was saved. Window thread only.
class GeometryWatch : public QObject
{
    Q_OBJECT

public:
    explicit GeometryWatch(QObject* parent);

    /// An empty path: nothing is watched.
    void watch(const std::filesystem::path& file);

signals:
    void changed();

private:
    void settle();
    std::string stamp() const;

    QFileSystemWatcher watcher_;
    QTimer quiet_;
    std::filesystem::path file_;
    std::string stamp_; ///< of what was read
};

} // namespace stone
