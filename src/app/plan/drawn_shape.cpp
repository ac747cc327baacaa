// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/drawn_shape.h"

#include "world/carriage.h"

namespace stone
{

Vec3 placeNow(const Playback& playback, const Emitter& emitter, double preview_s)
{
    const World& world = playback.hearing().world();
    const auto index = world.indexOf(emitter.id);
    const bool known = index && world.level().emitters[*index]->kind == emitter.kind;
    if (emitter.kind == EmitterKind::roamer) {
        if (emitter.roaming.stops.empty()) {
            return emitter.at;
        }
        if (!known) {
            return emitter.roaming.stops.front().at;
        }
        return preview_s >= 0.0 ? world.routeOf(*index).at(preview_s).at : world.roamerAt(*index, playback.moment()).at;
    }
    return emitter.riding.on != Riding::On::nothing && known
               ? world.carriageOf(emitter.riding, playback.moment()).placed(emitter.at)
               : emitter.at;
}

Vec3 handleOf(const Emitter& emitter)
{
    const bool roams = emitter.kind == EmitterKind::roamer && !emitter.roaming.stops.empty();
    return roams ? emitter.roaming.stops.front().at : emitter.at;
}

Solid::Frame frameNow(const Playback& playback, const Vec3& at, double heading_deg, const Riding& riding)
{
    const Carriage carriage = playback.hearing().world().carriageOf(riding, playback.moment());
    Solid::Frame frame = frameAt(carriage.placed(at), heading_deg);
    frame.aside = carriage.turned(frame.aside);
    frame.ahead = carriage.turned(frame.ahead);
    return frame;
}

std::optional<DrawnShape> drawnShape(const Session& session, const Playback& playback)
{
    const auto drawn = [&](const Shape& shape, const auto& thing) {
        return DrawnShape{shape, thing.at, thing.heading_deg, frameNow(playback, thing.at, thing.heading_deg, thing.riding)};
    };
    if (const Zone* zone = session.selected<Zone>()) {
        return drawn(zone->shape, *zone);
    }
    if (const Room* room = session.selected<Room>()) {
        return DrawnShape{room->shape, room->at, room->heading_deg, frameAt(room->at, room->heading_deg)};
    }
    if (const auto* plant = session.selected<Plant>()) {
        if (plant->where == Plant::Where::line || plant->where == Plant::Where::shape) {
            return DrawnShape{plant->shape, plant->at, plant->heading_deg, frameAt(plant->at, plant->heading_deg)};
        }
        return {};
    }
    const Emitter* emitter = session.primary();
    if (emitter != nullptr && emitter->kind == EmitterKind::area) {
        return drawn(emitter->area.shape, *emitter);
    }
    if (emitter != nullptr && emitter->kind == EmitterKind::sprinkle && emitter->sprinkling.where == Sprinkling::Where::shape) {
        return drawn(emitter->sprinkling.shape, *emitter);
    }
    return {};
}

void setDrawnShape(Session& session, const FittedShape& next, const QString& what, const QString& gesture)
{
    if (session.selected<Zone>() != nullptr) {
        session.editThing<Zone>(what, gesture, [&](Zone& z) {
            z.shape = next.shape;
            z.at = next.at;
            z.heading_deg = next.heading_deg;
        });
    } else if (session.selected<Room>() != nullptr) {
        session.editThing<Room>(what, gesture, [&](Room& r) {
            r.shape = next.shape;
            r.at = next.at;
            r.heading_deg = next.heading_deg;
        });
    } else if (session.selected<Plant>() != nullptr) {
        session.editThing<Plant>(what, gesture, [&](Plant& p) {
            p.shape = next.shape;
            p.at = next.at;
            p.heading_deg = next.heading_deg;
        });
    } else if (const Emitter* emitter = session.primary()) {
        session.edit(withEmitter(session.project(), session.levelId(), emitter->id,
                                 [&](Emitter& e) {
                                     (e.kind == EmitterKind::area ? e.area.shape : e.sprinkling.shape) = next.shape;
                                     e.at = next.at;
                                     e.heading_deg = next.heading_deg;
                                 }),
                     QString::fromStdString(emitter->name) + ": " + what, gesture);
    }
}

} // namespace stone
