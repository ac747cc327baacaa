// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/session.h"
#include "app/session/things.h"

#include <utility>

/// Edits of the session's level that several views make.
namespace stone
{

namespace
{

/// Where a copy is put: seen beside what it is a copy of, and still under it.
constexpr Vec3 besides{1.0, -1.0, 0.0};

/// Does something with the selected zone, room, opening, walk or plant rule; false where none of these is selected.
template <class Act> bool onSelectedThing(const Session& session, Act&& act)
{
    const auto on = [&](const auto* thing) {
        if (thing != nullptr) {
            act(*thing);
        }
        return thing != nullptr;
    };
    return on(session.selected<Zone>()) || on(session.selected<Room>()) || on(session.selected<Opening>()) ||
           on(session.selected<Walk>()) || on(session.selected<Plant>());
}

} // namespace

void Session::editSound(const SoundId& id, const QString& what, const QString& gesture, const Change<Sound>& change)
{
    const Sound* found = project().sounds.find(id);
    if (found == nullptr) {
        return;
    }
    Sound sound = *found;
    const QString name = QString::fromStdString(sound.name);
    change(sound);
    if (!(sound == *found)) {
        Project next = project();
        next.sounds.put(std::move(sound));
        edit(std::move(next), tr("Sound %1: %2").arg(name, what), gesture);
    }
}

void Session::editFamily(const FamilyId& id, const QString& what, const QString& gesture, const Change<Family>& change)
{
    const Family* found = project().families.find(id);
    if (found == nullptr) {
        return;
    }
    Family family = *found;
    change(family);
    const QString name = QString::fromStdString(family.name);
    Project next = project();
    next.families.put(std::move(family));
    edit(std::move(next), tr("Family %1: %2").arg(name, what), gesture);
}

void Session::editSubject(const QString& name, const QString& gesture, const Change<Emitter>& change)
{
    if (const Emitter* emitter = subject()) {
        edit(withEmitter(project(), levelId_, emitter->id, change), name, gesture);
    }
}

void Session::editSelected(const QString& name, const QString& gesture, const Change<Emitter>& change)
{
    if (pinned() || selection().size() < 2) {
        editSubject(name, gesture, change);
        return;
    }
    Project next = project();
    for (const EmitterId& id : selection()) {
        next = withEmitter(std::move(next), levelId_, id, change);
    }
    edit(std::move(next), tr("%1, and %n more", nullptr, static_cast<int>(selection().size()) - 1).arg(name), gesture);
}

EmitterId Session::addEmitter(const SoundId& soundId, const Vec3& at)
{
    const Sound* sound = project().sounds.find(soundId);
    Emitter emitter;
    emitter.name = sound != nullptr ? sound->name : "Emitter";
    emitter.at = at;
    emitter.sound = soundId;
    return addEmitter(std::move(emitter));
}

EmitterId Session::addEmitter(Emitter emitter)
{
    emitter.name = NamesTaken(level().emitters).unlike(emitter.name);
    emitter.id = level().emitters.freshId(emitter.name);
    const auto* shared = std::get_if<FalloffId>(&emitter.falloff);
    if (!project().falloffs.empty() && shared != nullptr && shared->empty()) {
        emitter.falloff = project().falloffs[0]->id;
    }
    const EmitterId id = emitter.id;
    const QString name = tr("Place %1").arg(QString::fromStdString(emitter.name));
    edit(withLevel(project(), levelId_, [&](Level& l) { l.emitters.put(std::move(emitter)); }), name);
    selectOnly(id);
    return id;
}

void Session::addSpaces(const std::vector<Room>& rooms, const std::vector<Opening>& openings, const QString& name)
{
    edit(withLevel(project(), levelId_,
                   [&](Level& l) {
                       for (Room room : rooms) {
                           room.id = l.rooms.freshId(room.name);
                           l.rooms.append(std::move(room));
                       }
                       for (Opening opening : openings) {
                           opening.id = l.openings.freshId(opening.name);
                           l.openings.append(std::move(opening));
                       }
                   }),
         name);
}

template <class Thing> decltype(Thing::id) Session::addThing(Thing what)
{
    const auto& list = level().*Kind<Thing>::list;
    what.name = NamesTaken(list).unlike(what.name);
    what.id = list.freshId(what.name);
    const auto id = what.id;
    const QString name = tr("Draw the %1 %2").arg(calledOne<Thing>(), QString::fromStdString(what.name));
    edit(withLevel(project(), levelId_, [&](Level& l) { (l.*Kind<Thing>::list).put(std::move(what)); }), name);
    selectThing<Thing>(id);
    return id;
}

template <class Thing> void Session::editThing(const QString& what, const QString& gesture, const Change<Thing>& change)
{
    if (const auto* found = selected<Thing>()) {
        Thing next = *found;
        change(next);
        edit(withLevel(project(), levelId_, [&](Level& l) { (l.*Kind<Thing>::list).put(std::move(next)); }),
             tr("%1 %2: %3").arg(calledOne<Thing>(true), QString::fromStdString(found->name), what), gesture);
    }
}

template <class Thing> void Session::deleteThing(const Thing& gone)
{
    const QString name = tr("Delete the %1 %2").arg(calledOne<Thing>(), QString::fromStdString(gone.name));
    const auto id = gone.id;
    selected_ = {};
    edit(withLevel(project(), levelId_, [&](Level& l) { (l.*Kind<Thing>::list).remove(id); }), name);
    emit selectionChanged();
}

template <class Thing> void Session::duplicateThing(const Thing& of)
{
    Thing copy = of;
    const auto& list = level().*Kind<Thing>::list;
    const QString name = tr("Duplicate the %1 %2").arg(calledOne<Thing>(), QString::fromStdString(of.name));
    copy.name = NamesTaken(list).unlike(of.name);
    copy.id = list.freshId(copy.name);
    Kind<Thing>::carry(copy, besides);
    const auto id = copy.id;
    edit(withLevel(project(), levelId_, [&](Level& l) { (l.*Kind<Thing>::list).put(std::move(copy)); }), name);
    selectThing<Thing>(id);
}

void Session::deleteEmitters()
{
    if (selection().empty()) {
        return;
    }
    const QString name = selection().size() == 1 && primary() != nullptr
                             ? tr("Delete %1").arg(QString::fromStdString(primary()->name))
                             : tr("Delete %1 emitters").arg(selection().size());
    edit(withLevel(project(), levelId_,
                   [&](Level& l) { l.emitters.removeIf([&](const Emitter& e) { return selection().contains(e.id); }); }),
         name);
}

void Session::deleteSelected()
{
    if (!onSelectedThing(*this, [this](const auto& thing) { deleteThing(thing); })) {
        deleteEmitters();
    }
}

void Session::duplicateSelected()
{
    if (!onSelectedThing(*this, [this](const auto& thing) { duplicateThing(thing); })) {
        duplicateEmitters();
    }
}

void Session::duplicateEmitters()
{
    std::set<EmitterId> copies;
    EmitterId last;
    NamesTaken names(level().emitters);
    Project next = withLevel(project(), levelId_, [&](Level& l) {
        for (const EmitterId& id : selection()) {
            if (const Emitter* found = l.emitters.find(id)) {
                Emitter copy = *found;
                copy.name = names.unlike(copy.name);
                copy.id = l.emitters.freshId(copy.name);
                Kind<Emitter>::carry(copy, besides);
                last = copy.id;
                copies.insert(copy.id);
                l.emitters.put(std::move(copy));
            }
        }
    });
    if (copies.empty()) {
        return;
    }
    edit(std::move(next),
         copies.size() == 1 ? tr("Duplicate %1").arg(QString::fromStdString(level().emitters.find(*selection().begin())->name))
                            : tr("Duplicate %1 emitters").arg(copies.size()));
    select(copies, last);
}

void Session::moveSelected(const Vec3& by, const QString& gesture)
{
    Project next = withLevel(project(), levelId_, [&](Level& l) {
        for (const EmitterId& id : selection()) {
            if (const Emitter* found = l.emitters.find(id)) {
                Emitter moved = *found;
                Kind<Emitter>::carry(moved, by);
                l.emitters.put(std::move(moved));
            }
        }
    });
    QString name = tr("Move %1 emitters").arg(selection().size());
    if (selection().size() == 1) {
        const Emitter* moved = next.levels.find(levelId_)->emitters.find(*selection().begin());
        name = by.z != 0.0 ? tr("Move %1 to %2 m up").arg(QString::fromStdString(moved->name)).arg(moved->at.z, 0, 'f', 2)
                           : tr("Move %1 to %2, %3 m")
                                 .arg(QString::fromStdString(moved->name))
                                 .arg(moved->at.x, 0, 'f', 1)
                                 .arg(moved->at.y, 0, 'f', 1);
    }
    edit(std::move(next), name, gesture);
}

template ZoneId Session::addThing(Zone what);
template RoomId Session::addThing(Room what);
template OpeningId Session::addThing(Opening what);
template WalkId Session::addThing(Walk what);
template PlantId Session::addThing(Plant what);
template void Session::editThing(const QString& what, const QString& gesture, const Change<Zone>& change);
template void Session::editThing(const QString& what, const QString& gesture, const Change<Room>& change);
template void Session::editThing(const QString& what, const QString& gesture, const Change<Opening>& change);
template void Session::editThing(const QString& what, const QString& gesture, const Change<Walk>& change);
template void Session::editThing(const QString& what, const QString& gesture, const Change<Plant>& change);

} // namespace stone
