// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "level/ground.h"
#include "project/document.h"

#include <QFutureWatcher>
#include <QObject>

#include <atomic>
#include <memory>

namespace stone
{

/// Finds what takes a search of a level's geometry, on a thread of the pool: the ways round walls that its Roamers need, its
/// obstacles, the corners of each storey, and the edges of its floor. It is kept in the Ground. Window thread only.
class WayFinder : public QObject
{
    Q_OBJECT

public:
    explicit WayFinder(QObject* parent) : QObject(parent)
    {
        connect(&watcher_, &QFutureWatcher<void>::finished, this, &WayFinder::done);
    }
    ~WayFinder() override;

    /// Looks for the ways that are not known yet. What is being looked for and no longer needed is dropped.
    void look(const Project& project, const Level& level, const std::shared_ptr<const Ground>& ground);
    bool looking() const { return watcher_.isRunning(); }

signals:
    /// More is known of ways and walls.
    void found();
    void edgesFound();

private:
    struct Search {
        std::shared_ptr<const Ground> ground;
        std::vector<std::pair<Vec3, Vec3>> ends;
        double slender_m = 0.0;
        std::vector<double> cuts_m; ///< at which corners are wanted
        EdgeRules edges{};
        Vec3 stands{0.0};
        bool withEdges = false;

        bool noWays() const { return ends.empty() && cuts_m.empty(); }

        bool operator==(const Search&) const = default;
    };
    void begin();
    void done();
    void stop();

    Search wanted_;
    Search running_;
    std::shared_ptr<std::atomic<bool>> stop_; ///< of what is running
    QFutureWatcher<void> watcher_;
};

} // namespace stone
