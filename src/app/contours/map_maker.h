// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/map_reading.h"
#include "app/session/playback.h"

#include <QObject>
#include <QString>
#include <QThreadPool>
#include <QTimer>

#include <atomic>
#include <map>
#include <memory>
#include <optional>

namespace stone
{

/// What a map is asked for.
struct MapChoice {
    enum class Of { all, selected, family, zone };

    MapShows shows = MapShows::level;
    Of of = Of::all;
    std::string id;        ///< of the family or zone
    bool atMoment = false; ///< what is irregular as it is at the moment that is shown, not in the mean

    bool operator==(const MapChoice&) const = default;
};

/// A map as far as it is known.
struct MapShown {
    MapChoice choice;
    QString of; ///< in words
    std::shared_ptr<const Scene> scene;
    MapQuestion question;
    std::size_t storey = 0;
    MapGrid grid; ///< of what is known
    std::vector<MapCell> cells;
    std::uint32_t stride = 1; ///< of the whole grid: 1: all of it is known
    double took_s = 0.0;

    bool whole() const { return stride == 1; }
};
using SharedMap = std::shared_ptr<const MapShown>;

/// Makes maps of the storey that is shown on threads of its own, from coarse to fine, anew whenever what is heard may have
/// changed; after an edit only where it may have. Those threads give way to all others. Window thread only.
class MapMaker : public QObject
{
    Q_OBJECT

public:
    /// Cells along the longer side.
    static constexpr std::uint32_t cells = 192;

    MapMaker(Session& session, Playback& playback, QObject* parent);
    /// Stops what is being made.
    ~MapMaker() override;

    bool on() const { return on_; }
    void setOn(bool on);
    const MapChoice& choice() const { return choice_; }
    void setChoice(const MapChoice& choice);
    void setStorey(std::size_t storey);

    /// Null: nothing is known yet.
    const SharedMap& shown() const { return shown_; }
    /// How much of the map is made, 0 to 1.
    double progress() const { return progress_; }
    bool making() const { return job_ != nullptr; }
    /// The map that others are compared with: one that was kept, else that before the last edit; null: none.
    SharedMap before() const { return kept_ != nullptr ? kept_ : beforeEdit_; }
    bool keeps() const { return kept_ != nullptr; }
    /// Keeps the whole map that is shown to be compared with; again forgets it.
    void keep();
    /// What counts, by the choice; in words too.
    std::vector<std::uint32_t> which(QString& words) const;

signals:
    /// Another map, or more of it, or none.
    void changed();
    void progressed();

private:
    struct Job;

    void makeSoon();
    void make();
    void stop();
    void watchWorld();
    void take(const std::shared_ptr<Job>& job, SharedMap map);
    std::vector<double> worldNow() const;
    MapQuestion question(QString& words) const;

    Session& session_;
    Playback& playback_;
    bool on_ = false;
    MapChoice choice_;
    std::size_t storey_ = 0;
    SharedMap shown_;
    SharedMap kept_;
    SharedMap beforeEdit_;
    double progress_ = 0.0;
    std::shared_ptr<Job> job_; ///< that is being made
    QThreadPool pool_;
    QTimer soon_;
    QTimer watch_;
    std::vector<double> worldMade_; ///< as it was when the map was begun
};

} // namespace stone
