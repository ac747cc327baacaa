// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/clipboard.h"

#include "app/session/things.h"
#include "geometry/drawing.h"
#include "project/file_error.h"
#include "project/fragment.h"
#include "project/read.h"
#include "project/write.h"

#include <QClipboard>
#include <QFileInfo>
#include <QGuiApplication>
#include <QMimeData>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <memory>

namespace stone
{

namespace
{

const QString folderFormat = QStringLiteral("application/x-stone-echo-folder");

template <class Thing> void addSelected(const Session& session, std::set<decltype(Thing::id)>& to)
{
    if (const auto* thing = session.selected<Thing>()) {
        to.insert(thing->id);
    }
}

LevelThings selectedThings(const Session& session)
{
    LevelThings things;
    things.emitters = session.selection();
    addSelected<Zone>(session, things.zones);
    addSelected<Room>(session, things.rooms);
    addSelected<Opening>(session, things.openings);
    addSelected<Walk>(session, things.walks);
    addSelected<Plant>(session, things.plants);
    return things;
}

/// Of all that is somewhere, the middle of what it covers; nothing where nothing is.
std::optional<Vec3> middleOf(const Level& level)
{
    Vec3 low{INFINITY};
    Vec3 high{-INFINITY};
    const auto include = [&](const Vec3& place) {
        low = glm::min(low, place);
        high = glm::max(high, place);
    };
    for (const auto& emitter : level.emitters) {
        if (isOnPlan(*emitter)) {
            include(emitter->at);
        }
    }
    for (const auto& zone : level.zones) {
        include(zone->at);
    }
    for (const auto& plant : level.plants) {
        include(plant->at);
    }
    for (const auto& room : level.rooms) {
        include(room->at);
    }
    for (const auto& opening : level.openings) {
        include({(opening->from + opening->to) / 2.0, opening->sill_m});
    }
    for (const auto& walk : level.walks) {
        for (const WalkPoint& point : walk->points) {
            include(point.at);
        }
    }
    return low.x <= high.x ? std::optional((low + high) / 2.0) : std::nullopt;
}

template <class Thing> void carryAll(Level& level, const Vec3& by)
{
    auto& list = level.*Kind<Thing>::list;
    for (const auto& thing : List<Thing>(list)) {
        Thing moved = *thing;
        Kind<Thing>::carry(moved, by);
        list.put(std::move(moved));
    }
}

/// To whole centimetres, as everything that is put down by hand.
Project carriedTo(Project fragment, const Vec2& at, const std::optional<Looking>& sideOn)
{
    const std::optional<Vec3> middle = middleOf(*fragment.levels[0]);
    if (!middle) {
        return fragment;
    }
    const Vec2 way = at - (sideOn ? onSheet(*sideOn, *middle) : Vec2(*middle));
    const Vec2 tidy{toCentimetre(way.x), toCentimetre(way.y)};
    const Vec3 by = sideOn ? fromSheet(*sideOn, tidy) : Vec3{tidy, 0.0};
    const LevelId id = fragment.levels[0]->id;
    return withLevel(std::move(fragment), id, [&](Level& level) {
        carryAll<Emitter>(level, by);
        carryAll<Zone>(level, by);
        carryAll<Room>(level, by);
        carryAll<Opening>(level, by);
        carryAll<Walk>(level, by);
        carryAll<Plant>(level, by);
    });
}

template <class Thing> bool selectOne(Session& session, const std::set<decltype(Thing::id)>& ids)
{
    if (!ids.empty()) {
        session.selectThing<Thing>(*ids.begin());
    }
    return !ids.empty();
}

void selectPasted(Session& session, const LevelThings& things)
{
    if (!things.emitters.empty()) {
        session.select(things.emitters, *things.emitters.begin());
        return;
    }
    selectOne<Zone>(session, things.zones) || selectOne<Room>(session, things.rooms) ||
        selectOne<Opening>(session, things.openings) || selectOne<Walk>(session, things.walks) ||
        selectOne<Plant>(session, things.plants);
}

/// "the zone Hall", "3 emitters".
QString inWords(const Level& level)
{
    const std::size_t all = level.emitters.size() + level.zones.size() + level.rooms.size() + level.openings.size() +
                            level.walks.size() + level.plants.size();
    if (all != 1) {
        return Session::tr("%n things", nullptr, static_cast<int>(all));
    }
    const auto named = [](const auto& list) { return list.empty() ? QString() : QString::fromStdString(list[0]->name); };
    return named(level.emitters) + named(level.zones) + named(level.rooms) + named(level.openings) + named(level.walks) +
           named(level.plants);
}

} // namespace

bool copySelected(Session& session)
{
    const LevelThings things = selectedThings(session);
    if (things == LevelThings{}) {
        return false;
    }
    auto data = std::make_unique<QMimeData>();
    data->setText(QString::fromStdString(projectText(fragmentOf(session.project(), session.levelId(), things))));
    if (!session.folder().empty()) {
        data->setData(folderFormat, QByteArray::fromStdString(session.folder().string()));
    }
    QGuiApplication::clipboard()->setMimeData(data.release());
    return true;
}

Unbrought paste(Session& session, const std::optional<Vec2>& at)
{
    const QMimeData* data = QGuiApplication::clipboard()->mimeData();
    const QString text = data != nullptr ? data->text().trimmed() : QString();
    if (!text.startsWith('{')) {
        emit session.failed(Session::tr("There is nothing to paste: copy emitters, a zone, room, opening or walk first."));
        return {};
    }
    try {
        Project fragment = readProjectText(text.toStdString(), "the clipboard").project;
        if (fragment.levels.empty()) {
            return {};
        }
        const QString what = inWords(*fragment.levels[0]);
        if (at) {
            fragment = carriedTo(std::move(fragment), *at, session.level().sideOn);
        }
        Pasted pasted = withFragment(session.project(), session.levelId(), fragment);
        session.edit(std::move(pasted.project), Session::tr("Paste %1").arg(what));
        selectPasted(session, pasted.things);
        const QString folder = QString::fromUtf8(data->data(folderFormat));
        if (pasted.sounds.empty() || folder.isEmpty() || folder == QString::fromStdString(session.folder().string())) {
            return {};
        }
        return {pasted.sounds, folder};
    } catch (const FileError& error) {
        emit session.failed(Session::tr("What is on the clipboard is not from Stone Echo, or damaged: %1")
                                .arg(QString::fromUtf8(error.what())));
    }
    return {};
}

void bringFiles(Session& session, const Unbrought& left)
{
    const std::filesystem::path folder = left.folder.toStdString();
    Project next = session.project();
    for (const SoundId& id : left.sounds) {
        const Sound* found = next.sounds.find(id);
        if (found == nullptr) {
            continue;
        }
        Sound sound = *found;
        for (SoundFile& file : sound.files) {
            // What was agreed to is that folder, not whatever the text names.
            const QString path = QString::fromStdString(resolveInside(folder, file.file).string());
            try {
                if (!path.isEmpty() && QFileInfo(path).isFile()) {
                    file.file = session.takeIn(path, "sounds").toStdString();
                }
            } catch (const FileError& error) {
                emit session.failed(QString::fromUtf8(error.what()));
            }
        }
        next.sounds.put(std::move(sound));
    }
    session.edit(std::move(next), Session::tr("Bring in %n sounds", nullptr, static_cast<int>(left.sounds.size())));
}

} // namespace stone
