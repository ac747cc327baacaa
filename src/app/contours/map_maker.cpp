// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/contours/map_maker.h"

#include "analysis/masking.h"
#include "app/session/the_last_to_run.h"

#include <QElapsedTimer>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// The widest stride of the first, coarse map.
constexpr std::uint32_t coarsest = 16;
constexpr int settled_ms = 20;
constexpr int watchEvery_ms = 300;

bool sameQuestion(const MapShown& a, const MapQuestion& question, const MapGrid& grid, std::size_t storey)
{
    const MapQuestion& b = a.question;
    return b.which == question.which && b.voices == question.voices && b.mean == question.mean &&
           b.masking_db.size() == question.masking_db.size() && a.storey == storey && a.whole() &&
           a.grid.columns == grid.columns && a.grid.rows == grid.rows && a.grid.from == grid.from &&
           a.grid.cell_m == grid.cell_m && a.grid.ears_m == grid.ears_m;
}

} // namespace

/// What is being made, shared with the thread that does it.
struct MapMaker::Job {
    std::atomic<bool> stopped{false};
    std::atomic<double> progress{0.0};
    MapShown map; ///< without its cells
    MapGrid grid;
    SharedMap before;          ///< of which parts may hold
    bool worldChanged = false; ///< since then
    bool masking = false;
    unsigned threads = 1;
};

MapMaker::MapMaker(Session& session, Playback& playback, QObject* parent)
    : QObject(parent), session_(session), playback_(playback)
{
    pool_.setMaxThreadCount(1);
    soon_.setSingleShot(true);
    soon_.setInterval(settled_ms);
    watch_.setInterval(watchEvery_ms);
    connect(&soon_, &QTimer::timeout, this, &MapMaker::make);
    connect(&watch_, &QTimer::timeout, this, &MapMaker::watchWorld);
    connect(&session, &Session::documentChanged, this, &MapMaker::makeSoon);
    connect(&playback, &Playback::sceneChanged, this, &MapMaker::makeSoon);
    connect(&playback, &Playback::listeningChanged, this, &MapMaker::makeSoon);
    // Walls that were searched for, and sounds that were read, are in the scene by then.
    connect(&session, &Session::waysFound, this, &MapMaker::makeSoon);
    connect(&session, &Session::soundsChanged, this, &MapMaker::makeSoon);
    connect(&session, &Session::selectionChanged, this, [this] {
        if (choice_.of == MapChoice::Of::selected) {
            makeSoon();
        }
    });
}

MapMaker::~MapMaker()
{
    stop();
    pool_.waitForDone();
}

void MapMaker::setOn(bool on)
{
    if (on == on_) {
        return;
    }
    on_ = on;
    if (on_) {
        watch_.start();
        make();
    } else {
        watch_.stop();
        stop();
        shown_.reset();
        beforeEdit_.reset();
    }
    emit changed();
}

void MapMaker::setChoice(const MapChoice& choice)
{
    if (choice != choice_) {
        choice_ = choice;
        makeSoon();
        emit changed();
    }
}

void MapMaker::setStorey(std::size_t storey)
{
    if (storey != storey_) {
        storey_ = storey;
        makeSoon();
    }
}

void MapMaker::keep()
{
    if (kept_ != nullptr) {
        kept_.reset();
    } else if (shown_ != nullptr && shown_->whole()) {
        kept_ = shown_;
    }
    emit changed();
}

void MapMaker::makeSoon()
{
    if (on_) {
        stop();
        soon_.start();
    }
}

void MapMaker::stop()
{
    soon_.stop();
    if (job_ != nullptr) {
        job_->stopped = true;
        job_.reset();
    }
}

/// Doors, game values and what mutes for these ears: where one of them has gone on, so has the map.
void MapMaker::watchWorld()
{
    if (job_ != nullptr) {
        progress_ = job_->progress;
        emit progressed();
        return;
    }
    const std::vector<double> now = worldNow();
    const bool same = std::equal(now.begin(), now.end(), worldMade_.begin(), worldMade_.end(),
                                 [](double a, double b) { return std::abs(a - b) < 1e-3; });
    if (!same || (choice_.atMoment && playback_.listening() && !playback_.paused())) {
        make();
    }
}

std::vector<double> MapMaker::worldNow() const
{
    std::vector<double> now;
    const World& world = playback_.hearing().world();
    const Moment moment = playback_.moment();
    for (std::uint32_t i = 0; i < world.level().openings.size(); ++i) {
        now.push_back(world.openShare(moment, i));
    }
    for (const auto& value : world.project().gameValues) {
        now.push_back(world.valueAt(moment, value->id));
    }
    return now;
}

std::vector<std::uint32_t> MapMaker::which(QString& words) const
{
    const Level& level = playback_.hearing().level();
    std::vector<std::uint32_t> which;
    const auto add = [&](auto&& belongs) {
        for (std::uint32_t i = 0; i < level.emitters.size(); ++i) {
            if (belongs(*level.emitters[i])) {
                which.push_back(i);
            }
        }
    };
    switch (choice_.of) {
    case MapChoice::Of::selected:
        add([&](const Emitter& emitter) { return session_.selection().contains(emitter.id); });
        words = which.size() == 1 ? QString::fromStdString(level.emitters[which.front()]->name)
                                  : tr("%n emitters that are selected", nullptr, static_cast<int>(which.size()));
        break;
    case MapChoice::Of::family: {
        const Family* family = session_.project().families.find(FamilyId{choice_.id});
        add([&](const Emitter& emitter) { return emitter.family == FamilyId{choice_.id}; });
        words = family != nullptr ? QString::fromStdString(family->name) : QString();
        break;
    }
    case MapChoice::Of::zone: {
        const Zone* zone = level.zones.find(ZoneId{choice_.id});
        add([&](const Emitter& emitter) { return emitter.zone == ZoneId{choice_.id}; });
        words = zone != nullptr ? QString::fromStdString(zone->name) : QString();
        break;
    }
    case MapChoice::Of::all: words = tr("everything"); return whichFor(choice_.shows, level);
    }
    return which;
}

MapQuestion MapMaker::question(QString& words) const
{
    MapQuestion question;
    question.which = which(words);
    question.voices = needsVoices(choice_.shows);
    question.mean = !choice_.atMoment;
    if (choice_.atMoment) {
        question.when = playback_.when();
    }
    if (playback_.world() != nullptr) {
        question.state = std::make_shared<const WorldState>(*playback_.world());
    }
    return question;
}

void MapMaker::make()
{
    stop();
    if (!on_) {
        return;
    }
    const std::shared_ptr<const Scene> scene = playback_.shownScene();
    auto job = std::make_shared<Job>();
    job->map.choice = choice_;
    job->map.question = question(job->map.of);
    job->map.scene = scene;
    job->map.storey = storey_;
    const Ground* ground = scene->model.world().ground();
    job->grid = gridOf(scene->model.level(), storey_, ground != nullptr ? &ground->mesh() : nullptr, cells);
    job->masking = choice_.shows == MapShows::masked;
    const std::vector<double> world = worldNow();
    job->worldChanged = world != worldMade_;
    worldMade_ = world;
    const bool nobody = choice_.of != MapChoice::Of::all && job->map.question.which.empty();
    if (nobody) {
        shown_.reset();
        emit changed();
        return;
    }
    // Of another level nothing is to be compared with.
    const auto elsewhere = [&](const SharedMap& map) {
        return map != nullptr && map->scene->model.level().id != scene->model.level().id;
    };
    for (SharedMap* map : {&shown_, &kept_, &beforeEdit_}) {
        if (elsewhere(*map)) {
            map->reset();
        }
    }
    if (shown_ != nullptr && shown_->whole() && shown_->scene != scene) {
        // What was shown before an edit is what the edit is compared with.
        beforeEdit_ = shown_;
    }
    job->before = shown_;
    job->threads = std::max(std::thread::hardware_concurrency(), 1U);
    job_ = job;
    progress_ = 0.0;
    pool_.start([this, job] {
        theLastToRun();
        QElapsedTimer clock;
        clock.start();
        MapQuestion& question = job->map.question;
        const HearingModel& model = job->map.scene->model;
        if (job->masking) {
            question.masking_db = bandsOf(*job->map.scene);
        }
        std::vector<MapCell> known(job->grid.cells());
        std::optional<std::vector<Sphere>> changed;
        if (job->before && !job->worldChanged && question.mean &&
            sameQuestion(*job->before, question, job->grid, job->map.storey)) {
            changed = changedWithin(job->before->scene->model, model);
        }
        if (changed) {
            known = job->before->cells;
        }
        const auto all = static_cast<double>(job->grid.cells());
        double done = 0.0;
        for (std::uint32_t stride = coarsest; stride > 0 && !job->stopped; stride /= 2) {
            std::vector<std::uint32_t> ask = cellsOfStride(job->grid, stride, stride == coarsest);
            const double share = static_cast<double>(ask.size()) / all;
            if (changed) {
                std::erase_if(ask, [&](std::uint32_t cell) {
                    const Vec3 at = job->grid.at(cell % job->grid.columns, cell / job->grid.columns);
                    return std::none_of(changed->begin(), changed->end(), [&](const Sphere& sphere) {
                        return glm::length(at - sphere.centre) <= sphere.radius_m;
                    });
                });
            }
            const bool ended = mapCells(model, job->grid, question, ask, known, job->threads, [&](double part) {
                job->progress = done + share * part;
                return !job->stopped;
            });
            done += share;
            if (!ended || job->stopped) {
                return;
            }
            // Where the rest is known from before, nothing coarse is shown in between.
            if (changed && stride > 1) {
                continue;
            }
            auto map = std::make_shared<MapShown>(job->map);
            map->stride = stride;
            std::tie(map->grid, map->cells) = coarseMap(job->grid, known, stride);
            map->took_s = static_cast<double>(clock.nsecsElapsed()) * 1e-9;
            QMetaObject::invokeMethod(
                this, [this, job, map = SharedMap(std::move(map))] { take(job, map); }, Qt::QueuedConnection);
        }
    });
}

void MapMaker::take(const std::shared_ptr<Job>& job, SharedMap map)
{
    if (job != job_) {
        return;
    }
    shown_ = std::move(map);
    progress_ = job->progress;
    if (shown_->whole()) {
        job_.reset();
    }
    emit changed();
}

} // namespace stone
