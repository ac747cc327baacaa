// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/geometry_watch.h"
#include "app/session/project_files.h"
#include "level/ground.h"
#include "level/plan_cut.h"
#include "level/section_cut.h"

#include <QFutureWatcher>
#include <QImage>
#include <QObject>
#include <QStringList>

#include <array>
#include <functional>
#include <memory>
#include <string>

namespace stone
{

/// A level's geometry as the window needs it.
struct LoadedLevel {
    std::shared_ptr<const PlanCutter> cutter;
    std::array<std::shared_ptr<const SectionCutter>, 2> sections; ///< by Looking
    std::shared_ptr<const Ground> ground;
    const Mesh* mesh() const { return ground ? &ground->mesh() : nullptr; }
    QImage picture; ///< laid under the sheet
    std::string error;
};

/// Reads the geometry of the level that is shown, on a thread of the pool, and again when its file changes on the disk. Window
/// thread only.
class LevelLoader : public QObject
{
    Q_OBJECT

public:
    explicit LevelLoader(QObject* parent);
    ~LevelLoader() override;

    /// Sees to it that a level's geometry is there, or comes; nothing is done while it is the same file at the same scale.
    void load(const Level& level, const ProjectFiles& files);

    const LoadedLevel& loaded() const { return loaded_; }
    bool loading() const { return reading_; }
    /// Whether the level has a file or picture, read or not.
    bool expected() const { return !key_.empty(); }
    /// Names of the parts that have surfaces.
    QStringList solidNodes() const;

signals:
    /// Another geometry is there, or on its way.
    void changed();
    /// What was asked for has come; `again`: its file was changed on the disk.
    void read(bool again);
    /// The changed file cannot be read; what was there stays. One line for the person.
    void failed(const QString& message);

private:
    void readFile();
    void take();

    Geometry geometry_;
    std::filesystem::path file_;
    double metresPerUnit_ = 1.0;
    LoadedLevel loaded_;
    std::string key_; ///< which file at which scale loaded_ is, or is becoming
    QFutureWatcher<LoadedLevel> watcher_;
    bool reading_ = false; ///< until what the watcher brings has been taken up
    GeometryWatch watch_{this};
};

} // namespace stone
