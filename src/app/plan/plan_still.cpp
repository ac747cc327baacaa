// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/plan/drawn_shape.h"
#include "app/plan/edge_drawing.h"
#include "app/theme/theme.h"

#include <QPainter>
#include <QPainterPath>

#include <cmath>

/// What of the level's own things looks alike from one picture of the Plan to the next: outlines of rooms, zones and areas,
/// ways and walks. Kept as a picture, with the sheet under it, until something of what it depends on changes.
namespace stone
{

namespace
{

bool isScattered(const Emitter& emitter)
{
    return emitter.kind == EmitterKind::sprinkle && emitter.sprinkling.where == Sprinkling::Where::shape;
}

QPainterPath closed(const QPolygonF& outline)
{
    QPainterPath path;
    path.addPolygon(outline);
    path.closeSubpath();
    return path;
}

} // namespace

PlanView::Still PlanView::stillNow() const
{
    Still still{.document = session_.document(),
                .world = playback_.hearing().sharedWorld(),
                .level = session_.level().id,
                .camera = camera_,
                .ratio = devicePixelRatioF(),
                .storey = storey_,
                .markedSide = markedSide_,
                .selection = session_.selection(),
                .zone = session_.selected<Zone>(),
                .room = session_.selected<Room>(),
                .walkSelected = session_.selected<Walk>(),
                .walk = playback_.walk(),
                .sheet = sheet_.version(),
                .underlay = underlay_ != nullptr ? underlay_->version() : 0,
                .edges = shows(PlanPart::edges) ? session_.floorEdges() : nullptr,
                .shown = shown_,
                .numbers = {}};
    const auto add = [&](const Solid::Frame& frame) {
        for (const Vec3& v : {frame.at, frame.aside, frame.ahead}) {
            still.numbers.insert(still.numbers.end(), {v.x, v.y, v.z});
        }
    };
    const WorldState* state = playback_.world();
    ZonesAt here;
    if (state != nullptr) {
        here = state->zones;
    } else {
        still.world->zonesAt(playback_.moment(), here);
    }
    for (const auto& zone : session_.level().zones) {
        const auto index = still.world->zones().indexOf(zone->id);
        still.numbers.push_back(index && here.depth(*index) > 0.0 ? 1.0 : 0.0);
        add(frameNow(playback_, zone->at, zone->heading_deg, zone->riding));
    }
    for (const auto& emitter : session_.level().emitters) {
        if (emitter->kind == EmitterKind::area || isScattered(*emitter)) {
            add(frameNow(playback_, emitter->at, emitter->heading_deg, emitter->riding));
        }
    }
    return still;
}

void PlanView::paintStill(QPainter& painter)
{
    Still now = stillNow();
    const QSize size = (camera_.view * devicePixelRatioF()).toSize();
    if (!(now == still_) || stillPicture_.size() != size) {
        still_ = std::move(now);
        ++stillPaints_;
        stillPicture_ = QPixmap(size);
        stillPicture_.setDevicePixelRatio(devicePixelRatioF());
        QPainter onPicture(&stillPicture_);
        sheet_.paint(onPicture, camera_, devicePixelRatioF(), shows(PlanPart::grid));
        onPicture.setRenderHint(QPainter::Antialiasing);
        if (underlay_ != nullptr) {
            underlay_->paint(onPicture, camera_);
        }
        if (still_.edges) {
            drawEdges(onPicture, *still_.edges);
        }
        drawRooms(onPicture);
        drawZones(onPicture);
        drawAreas(onPicture);
        if (shows(PlanPart::routes)) {
            drawRoutes(onPicture);
        }
        if (shows(PlanPart::walks) || session_.selected<Walk>() != nullptr) {
            drawWalk(onPicture);
        }
    }
    painter.drawPixmap(0, 0, stillPicture_);
}

void PlanView::drawEdges(QPainter& painter, const FloorEdges& edges) const
{
    const QRectF seen = QRectF({0, 0}, camera_.view).adjusted(-20, -20, 20, 20);
    for (const FloorEdge& edge : edges.all()) {
        if (!onStorey(edge.points.front().z)) {
            continue;
        }
        QPolygonF line;
        for (const Vec3& point : edge.points) {
            line << camera_.toScreen(point);
        }
        if (edge.closed) {
            line << line.front();
        }
        if (line.boundingRect().adjusted(-1, -1, 1, 1).intersects(seen)) {
            drawEdge(painter, edge.kind, line);
        }
    }
}

void PlanView::drawRooms(QPainter& painter)
{
    roomPaths_.clear();
    const auto& rooms = session_.level().rooms;
    for (std::uint32_t i = 0; i < rooms.size(); ++i) {
        const Room& room = *rooms[i];
        const Solid::Frame frame = frameAt(room.at, room.heading_deg);
        if (!onStorey(Solid(room.shape, frame).box().front().z)) {
            continue;
        }
        const bool selected = session_.selected<Room>() == &room;
        if (!selected && !shows(PlanPart::rooms)) {
            continue;
        }
        for (const QPolygonF& outline : outlinesOf(room.shape, frame)) {
            const QPainterPath path = closed(outline);
            QColor tint = theme::ochre;
            tint.setAlpha(8);
            painter.fillPath(path, tint);
            QColor line = theme::umber;
            line.setAlpha(selected ? 255 : 110);
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(line, selected ? 2.4 : 1.0));
            painter.drawPath(path);
            roomPaths_.push_back({i, path});
        }
    }
}

void PlanView::drawZones(QPainter& painter)
{
    zonePaths_.clear();
    const auto& zones = session_.level().zones;
    constexpr std::size_t perZone = 10; // of the numbers: whether it is entered, and its frame
    for (std::uint32_t i = 0; i < zones.size(); ++i) {
        const Zone& zone = *zones[i];
        if (!onStorey(zone)) {
            continue;
        }
        const bool selected = session_.selected<Zone>() == &zone;
        if (!selected && !shows(PlanPart::zones)) {
            continue;
        }
        const bool inside = still_.numbers[i * perZone] > 0.0;
        QColor colour = theme::lapis;
        for (const QPolygonF& outline : outlinesOf(zone.shape, frameNow(playback_, zone.at, zone.heading_deg, zone.riding))) {
            const QPainterPath path = closed(outline);
            if (selected) {
                paintMargin(painter, zone, outline);
            }
            colour.setAlpha(inside ? 11 : 4);
            painter.fillPath(path, colour);
            colour.setAlpha(selected ? 255 : 150);
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, selected ? 2.0 : 1.1, Qt::DashDotLine));
            painter.drawPath(path);
            zonePaths_.push_back({i, path});
        }
    }
}

void PlanView::drawAreas(QPainter& painter) const
{
    for (const auto& emitter : session_.level().emitters) {
        const bool scatter = isScattered(*emitter);
        if (emitter->kind != EmitterKind::area && !scatter) {
            continue;
        }
        const bool selected = session_.selection().contains(emitter->id);
        QColor colour = theme::colourOf(emitter->kind);
        const Shape& shape = scatter ? emitter->sprinkling.shape : emitter->area.shape;
        for (const QPolygonF& outline :
             outlinesOf(shape, frameNow(playback_, emitter->at, emitter->heading_deg, emitter->riding))) {
            const QPainterPath path = closed(outline);
            colour.setAlpha(selected ? 60 : 32);
            painter.fillPath(path, QBrush(colour, Qt::BDiagPattern));
            colour.setAlpha(selected ? 255 : 140);
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, selected ? 1.8 : 1.1, scatter ? Qt::DotLine : Qt::SolidLine));
            painter.drawPath(path);
        }
    }
}

void PlanView::drawRoutes(QPainter& painter) const
{
    const World& world = *still_.world;
    painter.setBrush(Qt::NoBrush);
    for (const auto& emitter : session_.level().emitters) {
        const auto index = emitter->kind == EmitterKind::roamer ? world.indexOf(emitter->id) : std::nullopt;
        if (!index || world.level().emitters[*index]->kind != EmitterKind::roamer) {
            continue;
        }
        QPolygonF line;
        for (const Vec3& p : world.routeOf(*index).line()) {
            line << camera_.toScreen(p);
        }
        painter.setPen(
            QPen(theme::colourOf(EmitterKind::roamer), session_.selection().contains(emitter->id) ? 1.6 : 0.9, Qt::DashLine));
        painter.drawPolyline(line);
    }
}

} // namespace stone
