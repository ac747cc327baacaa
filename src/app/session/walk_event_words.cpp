// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/walk_event_words.h"

#include "app/theme/theme.h"
#include "project/edit.h"

#include <algorithm>
#include <cmath>

namespace stone
{

QString burstText(const Project& project, const Level& level, const Burst& burst)
{
    QString what;
    switch (burst.of) {
    case Burst::Of::emitter: {
        const Emitter* emitter = level.emitters.find(burst.emitter);
        what = emitter != nullptr ? QString::fromStdString(emitter->name) : QObject::tr("an emitter that is gone");
        break;
    }
    case Burst::Of::signal: {
        const Signal* signal = project.signalNames.find(burst.signal);
        what = signal != nullptr ? QString::fromStdString(signal->name) : QObject::tr("a signal that is gone");
        break;
    }
    case Burst::Of::use: what = QObject::tr("uses of what is near"); break;
    }
    const QString every = QObject::tr("%1 s").arg(burst.every_s, 0, 'g', 3);
    return burst.irregular ? QObject::tr("%1 × %2, about every %3").arg(burst.count).arg(what, every)
                           : QObject::tr("%1 × %2, every %3").arg(burst.count).arg(what, every);
}

QString eventText(const Project& project, const Level& level, const WalkEvent& event)
{
    switch (event.kind) {
    case WalkEvent::Kind::signal: {
        const Signal* signal = project.signalNames.find(event.signal);
        return signal != nullptr ? QString::fromStdString(signal->name) : QObject::tr("a signal that is gone");
    }
    case WalkEvent::Kind::value: {
        const GameValue* value = project.gameValues.find(event.value);
        return QObject::tr("%1 to %2")
            .arg(value != nullptr ? QString::fromStdString(value->name) : QObject::tr("a value that is gone"))
            .arg(event.number, 0, 'g', 4);
    }
    case WalkEvent::Kind::interact: return QObject::tr("use what is near");
    case WalkEvent::Kind::reset: return QObject::tr("put back to the start");
    case WalkEvent::Kind::burst: return burstText(project, level, event.burst);
    }
    return {};
}

void changeEvents(Session& session, const WalkId& walk, const QString& what, const QString& gesture,
                  const std::function<void(std::vector<WalkEvent>&)>& how)
{
    const Walk* found = session.level().walks.find(walk);
    if (found == nullptr) {
        return;
    }
    Walk next = *found;
    how(next.events);
    std::stable_sort(next.events.begin(), next.events.end(),
                     [](const WalkEvent& a, const WalkEvent& b) { return a.t_s < b.t_s; });
    const QString name = QString::fromStdString(next.name);
    session.edit(withLevel(session.project(), session.levelId(), [&](Level& l) { l.walks.put(std::move(next)); }),
                 QObject::tr("Walk %1: %2").arg(name, what), gesture);
}

void putOnWalk(Session& session, const WalkId& walk, WalkEvent event, double time_s)
{
    event.t_s = std::round(time_s * 10.0) / 10.0;
    const QString what =
        QObject::tr("%1 at %2").arg(eventText(session.project(), session.level(), event), theme::clock(event.t_s));
    changeEvents(session, walk, what, {}, [&](std::vector<WalkEvent>& events) { events.push_back(std::move(event)); });
}

} // namespace stone
