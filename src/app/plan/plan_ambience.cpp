// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/ambience/pulse_form.h"
#include "app/plan/drawn_shape.h"
#include "app/theme/haloed.h"
#include "app/theme/theme.h"
#include "world/carriage.h"

#include <QPainter>
#include <QPainterPath>

#include <cmath>

/// Zones, areas, routes and what falls at the moment: how the Plan shows what of them changes.
namespace stone
{

QPolygonF PlanView::onScreen(const std::vector<Vec2>& outline) const
{
    QPolygonF polygon;
    for (const Vec2& p : outline) {
        polygon << camera_.toScreen(p);
    }
    return polygon;
}

std::vector<QPolygonF> PlanView::outlinesOf(const Shape& shape, const Solid::Frame& frame) const
{
    std::vector<QPolygonF> outlines;
    const Solid solid(shape, frame);
    for (const auto& outline : camera_.upright ? solid.outlineOn(*camera_.upright) : solid.footprint()) {
        outlines.push_back(onScreen(outline));
    }
    return outlines;
}

/// Whether a room that is shown bears a name.
bool PlanView::roomIsNamed(const std::string& name) const
{
    return std::any_of(roomPaths_.begin(), roomPaths_.end(),
                       [&](const Outlined& room) { return session_.level().rooms[room.index]->name == name; });
}

void PlanView::nameZones(LabelLayer& labels) const
{
    for (const Outlined& each : zonePaths_) {
        const Zone& zone = *session_.level().zones[each.index];
        const bool selected = session_.selected<Zone>() == &zone;
        // A room of the same name says it for both.
        if (roomIsNamed(zone.name) && !selected) {
            continue;
        }
        const QRectF box = each.path.boundingRect();
        labels.add({.text = QString::fromStdString(zone.name).toUpper(),
                    .font = theme::text(7.5, selected ? QFont::Bold : QFont::Normal),
                    .colour = theme::lapis,
                    .at = QPointF(box.left() + 6, box.top() + 9),
                    .radius = 2.0,
                    .rank = selected ? LabelLayer::Rank::selected : LabelLayer::Rank::space});
    }
}

/// Outside each side of a zone as far as its bed begins to open up.
void PlanView::paintMargin(QPainter& painter, const Zone& zone, const QPolygonF& outline) const
{
    const bool sides = std::holds_alternative<Box>(zone.shape) || std::holds_alternative<Prism>(zone.shape);
    // Broad strokes: the halves that would lie inside are left out.
    QPainterPath margin;
    QPainterPath inside;
    inside.addPolygon(outline);
    inside.closeSubpath();
    for (int i = 0; i < outline.size(); ++i) {
        const auto side = static_cast<std::size_t>(i);
        const double metres = sides && side < zone.margins.size() ? zone.margins[side] : zone.margin_m;
        QPainterPath line(outline[i]);
        line.lineTo(outline[(i + 1) % outline.size()]);
        QPainterPathStroker stroker(
            QPen(Qt::black, std::max(2.0 * metres * camera_.pixelsPerMetre, 0.01), Qt::SolidLine, Qt::RoundCap));
        margin = margin.united(stroker.createStroke(line));
    }
    QColor colour = theme::lapis;
    colour.setAlpha(28);
    painter.fillPath(margin.subtracted(inside), colour);
    if (!sides || markedSide_ < 0 || markedSide_ >= outline.size()) {
        return;
    }
    painter.setPen(QPen(theme::lapis, 5));
    painter.drawLine(outline[markedSide_], outline[(markedSide_ + 1) % outline.size()]);
}

/// Where areas sound from just now.
void PlanView::paintAreas(QPainter& painter) const
{
    const auto& emitters = session_.level().emitters;
    const auto& known = playback_.hearing().world().level().emitters;
    for (std::uint32_t i = 0; i < std::min(emitters.size(), known.size()); ++i) {
        const Emitter& emitter = *emitters[i];
        if (emitter.kind != EmitterKind::area || known[i]->id != emitter.id) {
            continue;
        }
        const Heard& heard = playback_.heard()[i];
        if (heard.audible && heard.bearing.distance_m > 0.0) {
            const QColor colour = theme::colourOf(emitter.kind);
            const QPointF at = camera_.toScreen(heard.at);
            painter.setPen(QPen(theme::paper, 3.5));
            painter.setBrush(colour);
            painter.drawEllipse(at, 4.5, 4.5);
            painter.setPen(QPen(colour, 1.2));
            painter.drawEllipse(at, 4.5, 4.5);
        }
    }
}

void PlanView::paintRoutes(QPainter& painter) const
{
    const World& world = playback_.hearing().world();
    for (const auto& emitter : session_.level().emitters) {
        if (emitter->kind != EmitterKind::roamer) {
            continue;
        }
        const bool selected = session_.selection().contains(emitter->id);
        const auto index = world.indexOf(emitter->id);
        const QColor colour = theme::colourOf(EmitterKind::roamer);
        std::vector<std::size_t> visited;
        if (index && world.level().emitters[*index]->kind == EmitterKind::roamer) {
            const Route& route = world.routeOf(*index);
            if (const auto setOff = world.setOff_s(*index, playback_.moment()); setOff && playback_.world() != nullptr) {
                visited = route.visited(playback_.moment().when.to_s - *setOff);
            }
        }
        for (std::size_t i = 0; i < emitter->roaming.stops.size(); ++i) {
            const QPointF at = camera_.toScreen(emitter->roaming.stops[i].at);
            const bool been = std::find(visited.begin(), visited.end(), i) != visited.end();
            painter.setPen(QPen(colour, 1.2));
            painter.setBrush(been ? colour : theme::paper);
            const double r = selected ? 7.0 : 3.5;
            painter.drawEllipse(at, r, r);
            if (selected) {
                painter.setFont(theme::text(7, QFont::Bold));
                painter.setPen(been ? theme::paper : colour);
                painter.drawText(QRectF(at - QPointF(7, 7), QSizeF(14, 14)), Qt::AlignCenter, QString::number(i + 1));
            }
        }
    }
}

void PlanView::paintShots(QPainter& painter) const
{
    const WorldState* state = playback_.world();
    if (state == nullptr) {
        return;
    }
    constexpr double fades_s = 3.0;
    const auto& emitters = playback_.hearing().level().emitters;
    for (const Start& start : state->starts) {
        if (!start.at || start.emitter >= emitters.size() || start.began_s > state->time_s) {
            continue;
        }
        const Emitter& emitter = *emitters[start.emitter];
        const Vec3 place = start.follows ? state->feet.at + *start.at : *start.at;
        const QPointF at = camera_.toScreen(place);
        const double age = std::clamp((state->time_s - start.began_s) / fades_s, 0.0, 1.0);
        QColor colour = theme::colourOf(emitter.kind);
        colour.setAlphaF(static_cast<float>(1.0 - 0.75 * age));
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        if (isOfCharacter(emitter.kind)) {
            painter.drawEllipse(at, 2.2, 2.2);
            continue;
        }
        painter.drawEllipse(at, 4.0, 4.0);
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(colour, 1.2));
        painter.drawEllipse(at, 5.0 + 9.0 * age, 5.0 + 9.0 * age);
        if (session_.selection().contains(emitter.id)) {
            painter.setFont(theme::number(7.5));
            const double distance = glm::length(place - playback_.ears().at);
            theme::drawHaloed(painter, at + QPointF(9, 3),
                              (start.part == Start::Part::answer ? tr("answer ") : QString()) + theme::metres(distance),
                              theme::soft);
        }
    }
}

/// What pulses measure: the way to the edge, how far it is, and the beat.
void PlanView::paintPulses(QPainter& painter) const
{
    const WorldState* state = playback_.world();
    if (state == nullptr) {
        return;
    }
    constexpr double flash_s = 0.15;
    const auto& emitters = playback_.hearing().level().emitters;
    for (const auto& [emitter, pulse] : state->pulses) {
        if (!pulse.hazard || emitter >= emitters.size()) {
            continue;
        }
        const PulseState::Hazard& hazard = *pulse.hazard;
        const QColor colour = theme::colourOf(EmitterKind::pulse);
        const QPointF from = camera_.toScreen(state->feet.at);
        const QPointF to = camera_.toScreen(hazard.at);
        painter.setPen(QPen(colour, 1.4, Qt::DashLine));
        painter.drawLine(from, to);
        const double age = std::clamp((state->time_s - pulse.lastBeat_s) / flash_s, 0.0, 1.0);
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(colour, 1.4 + 2.2 * (1.0 - age)));
        painter.drawEllipse(to, 4.0 + 3.0 * age, 4.0 + 3.0 * age);
        painter.setFont(theme::number(7.5));
        theme::drawHaloed(painter, to + QPointF(11, to.y() > from.y() ? 17 : -9),
                          tr("%1 · every %2 s").arg(toldOf(hazard)).arg(hazard.every_s, 0, 'f', 2), colour);
    }
}

/// Where the selected sprinkle can fall round the player.
void PlanView::paintSprinkleRange(QPainter& painter) const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || emitter->kind != EmitterKind::sprinkle || camera_.upright) {
        return;
    }
    const Sprinkling& s = emitter->sprinkling;
    const Pose& feet = playback_.feet();
    QColor colour = theme::colourOf(EmitterKind::sprinkle);
    painter.setPen(QPen(colour, 1.0, Qt::DotLine));
    colour.setAlpha(22);
    painter.setBrush(colour);
    painter.save();
    painter.translate(placeOfEars());
    painter.rotate(feet.heading_deg);
    const double scale = camera_.pixelsPerMetre;
    if (s.where == Sprinkling::Where::ring) {
        QPainterPath ring;
        const double span = std::min(s.toAngle_deg - s.fromAngle_deg, 360.0);
        const auto circle = [&](double metres) {
            return QRectF(-metres * scale, -metres * scale, 2 * metres * scale, 2 * metres * scale);
        };
        // Qt counts from the right, against the clock.
        ring.arcMoveTo(circle(s.farthest_m), 90.0 - s.fromAngle_deg);
        ring.arcTo(circle(s.farthest_m), 90.0 - s.fromAngle_deg, -span);
        ring.arcTo(circle(s.nearest_m), 90.0 - s.fromAngle_deg - span, span);
        ring.closeSubpath();
        painter.drawPath(ring);
    } else if (s.where == Sprinkling::Where::box) {
        painter.drawRect(
            QRectF(s.low_m.x * scale, -s.high_m.y * scale, (s.high_m.x - s.low_m.x) * scale, (s.high_m.y - s.low_m.y) * scale));
    }
    painter.restore();
    painter.setPen(QPen(theme::ink, 1.1));
    painter.setBrush(theme::paper);
    for (const RangeGrip& grip : rangeGripsOf(s)) {
        painter.drawRect(QRectF(besidePlayer(grip.at) - QPointF(4, 4), QSizeF(8, 8)));
    }
}

void PlanView::paintGrips(QPainter& painter) const
{
    if (const auto drawn = shapeOnSheet()) {
        for (const ShapeGrip& grip : shapeGrips()) {
            const QPointF at = camera_.toScreen(Vec2(grip.at));
            const bool side = grip.kind == ShapeGrip::Kind::side;
            painter.setPen(QPen(theme::ink, 1.1));
            painter.setBrush(side ? theme::line : theme::paper);
            if (grip.kind == ShapeGrip::Kind::turn) {
                painter.drawLine(camera_.toScreen(drawn->frame.at), at);
                painter.drawEllipse(at, 4.5, 4.5);
                continue;
            }
            const double r = side ? 2.5 : 4.0;
            painter.drawRect(QRectF(at - QPointF(r, r), QSizeF(2 * r, 2 * r)));
        }
    }
    if (tool_ != Tool::draw || drawnPoints_.empty()) {
        return;
    }
    QPolygonF points = onScreen(drawnPoints_);
    painter.setPen(QPen(theme::verdigris, 1.6));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(points);
    painter.setPen(QPen(theme::verdigris, 1.2, Qt::DotLine));
    painter.drawLine(points.back(), lastAt_);
    painter.setBrush(theme::verdigris);
    for (const QPointF& p : points) {
        painter.drawEllipse(p, 3, 3);
    }
}

/// What a click would fit a shape to.
void PlanView::paintPartUnder(QPainter& painter) const
{
    const Mesh::Node* part = tool_ == Tool::fit ? partUnder(lastAt_) : nullptr;
    if (part == nullptr) {
        return;
    }
    const FittedShape fitted = fittedTo(*session_.loadedLevel().mesh(), *part, Shape(Prism{}).index());
    QColor fill = theme::verdigris;
    fill.setAlpha(50);
    painter.setPen(QPen(theme::verdigris, 1.6));
    painter.setBrush(fill);
    for (const QPolygonF& outline : outlinesOf(fitted.shape, frameAt(fitted.at, fitted.heading_deg))) {
        painter.drawPolygon(outline);
    }
    painter.setFont(theme::text(9, QFont::Bold));
    theme::drawHaloed(painter, lastAt_ + QPointF(14, -8), QString::fromStdString(part->name), theme::verdigris);
}

} // namespace stone
