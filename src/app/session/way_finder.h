#pragma once

#include "level/ground.h"
#include "project/document.h"

#include <QFutureWatcher>
#include <QObject>

#include <memory>

namespace stone
{

/// Finds the ways round walls that a level's Roamers need, on a thread of the pool; they are kept in its Ground. Window
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
    void look(const Level& level, const std::shared_ptr<const Ground>& ground);
    bool looking() const { return watcher_.isRunning(); }

signals:
    /// More ways are known.
    void found();

private:
    struct Search {
        std::shared_ptr<const Ground> ground;
        std::vector<std::pair<Vec3, Vec3>> ends;

        bool operator==(const Search&) const = default;
    };
    void begin();
    void done();

    Search wanted_;
    Search running_;
    QFutureWatcher<void> watcher_;
};

} // namespace stone
