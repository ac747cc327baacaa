#include "app/session/session.h"

#include <utility>

namespace stone
{

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

template <class Thing> void Session::editSpace(const Thing* found, List<Thing> Level::*list, const QString& words,
                                               const QString& what, const QString& gesture, const Change<Thing>& change)
{
    if (found != nullptr) {
        Thing next = *found;
        change(next);
        edit(withLevel(project(), levelId_, [&](Level& l) { (l.*list).put(std::move(next)); }),
             words.arg(QString::fromStdString(found->name), what), gesture);
    }
}

void Session::editZone(const QString& what, const QString& gesture, const Change<Zone>& change)
{
    editSpace(zone(), &Level::zones, tr("Zone %1: %2"), what, gesture, change);
}

void Session::editRoom(const QString& what, const QString& gesture, const Change<Room>& change)
{
    editSpace(room(), &Level::rooms, tr("Room %1: %2"), what, gesture, change);
}

void Session::editOpening(const QString& what, const QString& gesture, const Change<Opening>& change)
{
    editSpace(opening(), &Level::openings, tr("Opening %1: %2"), what, gesture, change);
}

void Session::editSubject(const QString& name, const QString& gesture, const Change<Emitter>& change)
{
    if (const Emitter* emitter = subject()) {
        edit(withEmitter(project(), levelId_, emitter->id, change), name, gesture);
    }
}

void Session::editSelected(const QString& name, const QString& gesture, const Change<Emitter>& change)
{
    if (pinned() || selection_.size() < 2) {
        editSubject(name, gesture, change);
        return;
    }
    Project next = project();
    for (const EmitterId& id : selection_) {
        next = withEmitter(std::move(next), levelId_, id, change);
    }
    edit(std::move(next), tr("%1, and %n more", nullptr, static_cast<int>(selection_.size()) - 1).arg(name), gesture);
}

} // namespace stone
