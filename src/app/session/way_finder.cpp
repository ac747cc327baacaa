// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/way_finder.h"

#include "app/session/work_pool.h"

#include "world/route.h"

#include <QtConcurrent>

namespace stone
{

WayFinder::~WayFinder()
{
    stop();
    watcher_.waitForFinished();
}

void WayFinder::stop()
{
    watcher_.cancel();
    if (stop_) {
        stop_->store(true);
    }
}

void WayFinder::look(const Project& project, const Level& level, const std::shared_ptr<const Ground>& ground)
{
    wanted_ = {.ground = ground, .ends = {}, .slender_m = project.occlusion.slender_m, .cuts_m = {}};
    if (ground && !ground->foundEdges(level.edges, level.character.start)) {
        wanted_.edges = level.edges;
        wanted_.stands = level.character.start;
        wanted_.withEdges = true;
    }
    if (ground && project.occlusion.on) {
        const auto obstacles = ground->foundObstacles(wanted_.slender_m);
        for (const Storey& storey : level.storeys) {
            if (!obstacles || !obstacles->foundCorners(storey.cut_m)) {
                wanted_.cuts_m.push_back(storey.cut_m);
            }
        }
    }
    for (const auto& emitter : level.emitters) {
        if (ground && emitter->kind == EmitterKind::roamer && emitter->roaming.aroundWalls) {
            const auto& stops = emitter->roaming.stops;
            for (const auto& [from, to] : legsOf(emitter->roaming)) {
                if (!ground->foundWay(stops[from].at, stops[to].at)) {
                    wanted_.ends.emplace_back(stops[from].at, stops[to].at);
                }
            }
        }
    }
    if (!looking()) {
        begin();
    } else if (wanted_ != running_) {
        stop(); // the ways it has found by now are kept; done() goes on with what is wanted
    }
}

void WayFinder::begin()
{
    running_ = wanted_;
    if (running_.noWays() && !running_.withEdges) {
        return;
    }
    stop_ = std::make_shared<std::atomic<bool>>(false);
    watcher_.setFuture(QtConcurrent::run(&workPool(), [search = running_, stop = stop_](QPromise<void>& promise) {
        for (const double cut_m : search.cuts_m) {
            if (promise.isCanceled()) {
                return;
            }
            search.ground->obstacles(search.slender_m)->corners(cut_m);
        }
        for (const auto& [from, to] : search.ends) {
            if (promise.isCanceled()) {
                return;
            }
            search.ground->way(from, to);
        }
        if (search.withEdges && !promise.isCanceled()) {
            search.ground->edges(search.edges, search.stands, stop.get());
        }
    }));
}

void WayFinder::done()
{
    const bool changed = wanted_ != running_;
    if (!running_.noWays()) {
        emit found();
    }
    if (running_.withEdges) {
        emit edgesFound();
    }
    if (changed && !looking()) {
        begin();
    }
}

} // namespace stone
