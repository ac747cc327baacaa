// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/section/section_view.h"

#include "app/plan/edge_drawing.h"
#include "app/plan/label_layer.h"
#include "app/plan/outline_distance.h"
#include "app/plan/plan_sheet.h"
#include "app/theme/haloed.h"
#include "app/theme/theme.h"
#include "geometry/drawing.h"
#include "world/walk_making.h"

#include <QPainter>
#include <QPainterPath>

#include <cmath>

/// How the Section is drawn.
namespace stone
{

void SectionView::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.fillRect(rect(), theme::paper);
    const auto& cutter = session_.loadedLevel().sections[static_cast<std::size_t>(looking_)];
    const double cutAt_m = across_m();
    if (cutter && (cutOf_ != cutter.get() || cut_.height_m != cutAt_m)) {
        cut_ = cutter->at(cutAt_m);
        cut_.height_m = cutAt_m;
    } else if (!cutter) {
        cut_ = {};
    }
    cutOf_ = cutter.get();
    drawGrid(painter, camera_, session_.level().metresPerUnit);
    painter.setRenderHint(QPainter::Antialiasing);
    drawCut(painter, camera_, cut_);
    LabelLayer labels(QRectF(rect()).adjusted(4, 4, -4, -4));
    labels.keepFree(QRectF(0, 0, where_->geometry().right() + 8, 28));
    for (const Storey& storey : session_.level().storeys) {
        labels.keepFree(QRectF(width() - 150, camera_.toScreen(Vec2{0.0, storey.floor_m}).y() - 13, 150, 13));
    }
    paintEdges(painter);
    paintStoreys(painter);
    paintZones(painter, labels);
    paintShape(painter);
    paintPlanted(painter);
    paintEmitters(painter, labels);
    paintWalk(painter);
    paintCharacter(painter);
    labels.paint(painter);
    paintGrips(painter);
}

/// Edges of the floor that lie near the cut, as they are seen from before it.
void SectionView::paintEdges(QPainter& painter) const
{
    const auto edges = edgesShown_ ? session_.floorEdges() : nullptr;
    if (!edges) {
        return;
    }
    const double cutAt_m = across_m();
    for (const FloorEdge& edge : edges->all()) {
        for (std::size_t i = 0; i + (edge.closed ? 0 : 1) < edge.points.size(); ++i) {
            const Vec3& from = edge.points[i];
            const Vec3& to = edge.points[(i + 1) % edge.points.size()];
            const double near = std::min(nearness(from, cutAt_m), nearness(to, cutAt_m));
            const double fromAcross = across(looking_, from) - cutAt_m;
            const double toAcross = across(looking_, to) - cutAt_m;
            if (fromAcross * toAcross < 0.0) {
                // It goes through the sheet: a mark where it does, with the ticks of its kind.
                const Vec3 at = from + (to - from) * (fromAcross / (fromAcross - toAcross));
                const QPointF mark = toScreen(at);
                drawEdge(painter, edge.kind, QPolygonF({mark + QPointF(-4, 0), mark + QPointF(4, 0)}));
            } else if (near > 0.0) {
                painter.setOpacity(near);
                drawEdge(painter, edge.kind, QPolygonF({toScreen(from), toScreen(to)}));
                painter.setOpacity(1.0);
            }
        }
    }
}

void SectionView::paintStoreys(QPainter& painter) const
{
    painter.setFont(theme::text(7.5));
    for (const Storey& storey : session_.level().storeys) {
        const double y = camera_.toScreen(Vec2{0.0, storey.floor_m}).y();
        painter.setPen(QPen(theme::verdigris, 1, Qt::DashLine));
        painter.drawLine(QPointF(0, y), QPointF(width(), y));
        theme::drawHaloed(painter, QPointF(width() - 150, y - 3),
                          tr("%1, floor at %2").arg(QString::fromStdString(storey.name), theme::metres(storey.floor_m)),
                          theme::verdigris);
    }
}

void SectionView::paintZones(QPainter& painter, LabelLayer& labels) const
{
    const double cutAt_m = across_m();
    for (const auto& zone : session_.level().zones) {
        const auto [low, high] = Solid(zone->shape, frameNow(playback_, zone->at, zone->heading_deg, zone->riding)).box();
        if (session_.selected<Zone>() == zone.get() || across(looking_, low) > cutAt_m || across(looking_, high) < cutAt_m) {
            continue;
        }
        const QRectF box = QRectF(toScreen(low), toScreen(high)).normalized();
        QColor colour = theme::lapis;
        colour.setAlpha(150);
        painter.setPen(QPen(colour, 1.0, Qt::DashDotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(box);
        labels.add({.text = QString::fromStdString(zone->name).toUpper(),
                    .font = theme::text(7),
                    .colour = theme::lapis,
                    .at = box.topLeft() + QPointF(6, 8),
                    .radius = 2.0,
                    .rank = LabelLayer::Rank::space});
    }
}

/// The selected shape: what its sides cover, seen from here.
void SectionView::paintShape(QPainter& painter) const
{
    const auto drawn = drawnShape(session_, playback_);
    if (!drawn) {
        return;
    }
    const Emitter* emitter = session_.primary();
    const QColor colour = emitter != nullptr ? theme::colourOf(emitter->kind) : theme::lapis;
    QColor fill = colour;
    fill.setAlpha(40);
    painter.setPen(QPen(colour, 1.8));
    painter.setBrush(fill);
    if (const auto* ball = std::get_if<Ball>(&drawn->shape)) {
        const double r = ball->radius_m * camera_.pixelsPerMetre;
        painter.drawEllipse(toScreen(drawn->frame.at), r, r);
    } else if (const auto* capsule = std::get_if<Capsule>(&drawn->shape)) {
        const auto ends = heightGripsOf(drawn->shape, drawn->frame);
        QPainterPath line(toScreen(ends[0].at));
        line.lineTo(toScreen(ends[1].at));
        QPainterPathStroker stroker(
            QPen(Qt::black, 2.0 * capsule->radius_m * camera_.pixelsPerMetre, Qt::SolidLine, Qt::RoundCap));
        painter.drawPath(stroker.createStroke(line));
    } else if (std::holds_alternative<Ribbon>(drawn->shape)) {
        QPolygonF line;
        for (const HeightGrip& point : heightGripsOf(drawn->shape, drawn->frame)) {
            line << toScreen(point.at);
        }
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
    } else {
        const auto [low, high] = Solid(drawn->shape, drawn->frame).box();
        if (std::isfinite(low.x) && low.x <= high.x) {
            painter.drawRect(QRectF(toScreen(low), toScreen(high)).normalized());
        }
    }
}

void SectionView::paintGrips(QPainter& painter) const
{
    const auto drawn = drawnShape(session_, playback_);
    if (!drawn) {
        return;
    }
    painter.setFont(theme::number(7.5));
    for (const HeightGrip& grip : heightGripsOf(drawn->shape, drawn->frame)) {
        const QPointF at = placeOf(grip, *drawn);
        painter.setPen(QPen(theme::ink, 1.1));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(at - QPointF(4, 4), QSizeF(8, 8)));
        theme::drawHaloed(painter, at + (grip.kind == HeightGrip::Kind::bottom ? QPointF(8, 13) : QPointF(8, -4)),
                          theme::metres(grip.at.z), theme::ink);
    }
}

void SectionView::paintEmitters(QPainter& painter, LabelLayer& labels) const
{
    const double cutAt_m = across_m();
    for (const auto& emitter : session_.level().emitters) {
        const Vec3 place = placeNow(playback_, *emitter);
        const bool selected = session_.selection().contains(emitter->id);
        const double near = selected ? 1.0 : nearness(place, cutAt_m);
        const QPointF at = toScreen(place);
        if (!isOnPlan(*emitter) || near <= 0.0 || !QRectF(rect()).contains(at)) {
            continue;
        }
        QColor colour = theme::colourOf(emitter->kind);
        colour.setAlphaF(static_cast<float>(0.25 + 0.75 * near));
        theme::drawMark(painter, emitter->kind, at, selected ? 15 : 11, colour);
        if (selected) {
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(theme::ink, 1.4));
            painter.drawEllipse(at, 11, 11);
        }
        if (selected || near > 0.6) {
            const QString name = QString::fromStdString(emitter->name);
            labels.add({.text = selected ? tr("%1, %2 up").arg(name, theme::metres(place.z)) : name,
                        .font = theme::text(8, selected ? QFont::Bold : QFont::Normal),
                        .colour = selected ? theme::ink : theme::soft,
                        .at = at,
                        .radius = 12.0,
                        .rank = selected ? LabelLayer::Rank::selected : LabelLayer::Rank::heard});
        }
    }
}

/// What plant rules put near the cut; without names, as there may be many.
void SectionView::paintPlanted(QPainter& painter) const
{
    const double cutAt_m = across_m();
    for (const PlantedRule& rule : playback_.hearing().world().planted().rules) {
        for (const auto& copy : rule.copies) {
            const double near = nearness(copy->at, cutAt_m);
            const QPointF at = toScreen(copy->at);
            if (near > 0.0 && QRectF(rect()).contains(at)) {
                QColor colour = theme::colourOf(copy->kind);
                colour.setAlphaF(static_cast<float>(0.25 + 0.75 * near));
                theme::drawMark(painter, copy->kind, at, 8, colour);
            }
        }
    }
}

/// The chosen walk as it goes up and down; selected, its points are grips.
void SectionView::paintWalk(QPainter& painter) const
{
    const Walk* walk = session_.level().walks.find(playback_.walk());
    if (walk == nullptr) {
        return;
    }
    const bool selected = session_.selected<Walk>() == walk;
    QPolygonF way;
    for (const WalkPoint& point : walk->points) {
        way << toScreen(point.at);
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(selected ? theme::ink : theme::soft, 1.4, Qt::DotLine, Qt::RoundCap));
    painter.drawPolyline(way);
    if (selected) {
        painter.setPen(QPen(theme::ink, 1.4));
        painter.setBrush(theme::paper);
        for (const QPointF& at : way) {
            painter.drawEllipse(at, 4.2, 4.2);
        }
    }
}

/// Feet, head, camera and ears, however far from the cut.
void SectionView::paintCharacter(QPainter& painter) const
{
    const Stance& stance = playback_.stance();
    const QPointF feet = toScreen(stance.feet.at);
    const QPointF head = toScreen(stance.head.at);
    const QPointF camera = toScreen(stance.camera.at);
    const QPointF ears = toScreen(playback_.ears().at);
    painter.setPen(QPen(theme::ink, 1.4));
    painter.drawLine(feet, head);
    painter.drawLine(feet - QPointF(5, 0), feet + QPointF(5, 0));
    painter.setBrush(theme::paper);
    painter.drawEllipse(head, 4, 4);
    painter.setFont(theme::text(7.5));
    if (distanceBetween(head, camera) > 3.0) {
        painter.setPen(QPen(theme::ink, 1.0, Qt::DotLine));
        painter.drawLine(head, camera);
        painter.setPen(QPen(theme::ink, 1.4));
        painter.drawRect(QRectF(camera - QPointF(5, 4), QSizeF(10, 8)));
        theme::drawHaloed(painter, camera + QPointF(9, -4), tr("camera"), theme::ink);
    }
    painter.setBrush(theme::ink);
    painter.drawEllipse(ears, 4, 4);
    theme::drawHaloed(painter, ears + QPointF(7, 9), tr("ears"), theme::ink);
}

} // namespace stone
