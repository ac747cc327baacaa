// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/scene_maker.h"

#include <QtConcurrent>

#include <algorithm>
#include <utility>

namespace stone
{

namespace
{

constexpr std::size_t manyThings = 300;

template <class Thing> bool sameIds(const List<Thing>& then, const List<Thing>& now)
{
    return std::equal(then.begin(), then.end(), now.begin(), now.end(),
                      [](const auto& a, const auto& b) { return a == b || a->id == b->id; });
}

} // namespace

bool sameNumbers(const Project& then, const Level& levelThen, const Project& now, const Level& levelNow)
{
    const auto sameKind = [](const auto& a, const auto& b) { return a == b || (a->id == b->id && a->kind == b->kind); };
    return levelThen.id == levelNow.id &&
           std::equal(levelThen.emitters.begin(), levelThen.emitters.end(), levelNow.emitters.begin(), levelNow.emitters.end(),
                      sameKind) &&
           sameIds(levelThen.zones, levelNow.zones) && sameIds(levelThen.rooms, levelNow.rooms) &&
           sameIds(levelThen.openings, levelNow.openings) && sameIds(levelThen.plants, levelNow.plants) &&
           sameIds(levelThen.walks, levelNow.walks) && sameIds(then.sounds, now.sounds) && sameIds(then.gazes, now.gazes) &&
           sameIds(then.gameValues, now.gameValues);
}

std::shared_ptr<const Scene> SceneAsk::make(SoundBank& bank, const Scene* before) const
{
    return makeScene(
        project, level, bank, [this](const std::string& file) { return files.resolve(file); }, Loading::later, ground, head,
        forEars, before);
}

SceneMaker::SceneMaker(QObject* parent) : QObject(parent)
{
    thread_.setMaxThreadCount(1);
    connect(&making_, &QFutureWatcherBase::finished, this, &SceneMaker::take);
}

SceneMaker::~SceneMaker()
{
    making_.waitForFinished();
}

bool SceneMaker::worthwhile(const Level& level)
{
    return level.emitters.size() + level.zones.size() + level.rooms.size() + level.openings.size() >= manyThings;
}

void SceneMaker::make(Make what, std::shared_ptr<const Scene> before)
{
    if (underWay_) {
        next_ = std::move(what);
    } else {
        begin(std::move(what), std::move(before));
    }
}

void SceneMaker::begin(Make what, std::shared_ptr<const Scene> before)
{
    underWay_ = wanted_ = true;
    making_.setFuture(
        QtConcurrent::run(&thread_, [what = std::move(what), before = std::move(before)] { return what(before.get()); }));
}

void SceneMaker::forget()
{
    wanted_ = false;
    next_ = {};
}

void SceneMaker::take()
{
    const std::shared_ptr<const Scene> scene = making_.result();
    Make next = std::exchange(next_, {});
    const bool wanted = std::exchange(wanted_, false);
    underWay_ = false;
    if (next) {
        begin(std::move(next), scene);
    }
    if (wanted) {
        emit made(scene);
    }
}

} // namespace stone
