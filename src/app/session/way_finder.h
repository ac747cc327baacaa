#pragma once

#include "level/ground.h"
#include "project/document.h"

#include <QFutureWatcher>
#include <QObject>

#include <memory>

namespace stone
{

/// Finds what takes a search of a level's geometry, on a thread of the pool: the ways round walls that its Roamers need, its
/// obstacles, and the corners of each storey. It is kept in the Ground. Window
/// thread only.
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
    /// More is known.
    void found();

private:
    struct Search {
        std::shared_ptr<const Ground> ground;
        std::vector<std::pair<Vec3, Vec3>> ends;
        double slender_m = 0.0;
        std::vector<double> cuts_m; ///< at which corners are wanted

        bool nothing() const { return ends.empty() && cuts_m.empty(); }

        bool operator==(const Search&) const = default;
    };
    void begin();
    void done();

    Search wanted_;
    Search running_;
    QFutureWatcher<void> watcher_;
};

} // namespace stone
