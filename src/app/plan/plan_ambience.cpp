#include "app/plan/plan_view.h"

#include "app/theme/theme.h"
#include "world/carriage.h"

#include <QPainter>
#include <QPainterPath>

#include <cmath>

/// Zones, areas, routes and what falls at the moment: how the Plan draws them and lets them be drawn.
namespace stone
{

namespace
{

constexpr double gripGrab_px = 8.0;
constexpr double outlineGrab_px = 5.0;
constexpr double stopGrab_px = 9.0;

double distanceBetween(const QPointF& a, const QPointF& b)
{
    return std::hypot(a.x() - b.x(), a.y() - b.y());
}

double distanceToOutline(const QPolygonF& outline, const QPointF& at)
{
    double least = INFINITY;
    for (int i = 0; i < outline.size(); ++i) {
        const QPointF a = outline[i];
        const QPointF way = outline[(i + 1) % outline.size()] - a;
        const double length2 = QPointF::dotProduct(way, way);
        const double t = length2 > 0.0 ? std::clamp(QPointF::dotProduct(at - a, way) / length2, 0.0, 1.0) : 0.0;
        least = std::min(least, distanceBetween(at, a + way * t));
    }
    return least;
}

} // namespace

Vec3 PlanView::placeNow(const Emitter& emitter) const
{
    const World& world = playback_.hearing().world();
    const auto index = world.indexOf(emitter.id);
    const bool known = index && world.level().emitters[*index]->kind == emitter.kind;
    if (emitter.kind == EmitterKind::roamer) {
        if (emitter.roaming.stops.empty()) {
            return emitter.at;
        }
        if (!known) {
            return emitter.roaming.stops.front().at;
        }
        return preview_s_ >= 0.0 && session_.subject() == &emitter ? world.routeOf(*index).at(preview_s_).at
                                                                   : world.roamerAt(*index, playback_.moment()).at;
    }
    return emitter.riding.on != Riding::On::nothing && known
               ? world.carriageOf(emitter.riding, playback_.moment()).placed(emitter.at)
               : emitter.at;
}

Solid::Frame PlanView::frameOf(const Vec3& at, double heading_deg, const Riding& riding) const
{
    const Carriage carriage = playback_.hearing().world().carriageOf(riding, playback_.moment());
    Solid::Frame frame = frameAt(carriage.placed(at), heading_deg);
    frame.aside = carriage.turned(frame.aside);
    frame.ahead = carriage.turned(frame.ahead);
    return frame;
}

std::optional<PlanView::Drawn> PlanView::drawnShape() const
{
    if (const Zone* zone = session_.zone()) {
        return Drawn{zone->shape, frameOf(zone->at, zone->heading_deg, zone->riding)};
    }
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr) {
        return {};
    }
    if (emitter->kind == EmitterKind::area) {
        return Drawn{emitter->area.shape, frameOf(emitter->at, emitter->heading_deg, emitter->riding)};
    }
    if (emitter->kind == EmitterKind::sprinkle && emitter->sprinkling.where == Sprinkling::Where::shape) {
        return Drawn{emitter->sprinkling.shape, frameOf(emitter->at, emitter->heading_deg, emitter->riding)};
    }
    return {};
}

void PlanView::setShape(const Shape& shape, const QString& what, const QString& gesture)
{
    if (session_.zone() != nullptr) {
        session_.editZone(what, gesture, [&](Zone& z) { z.shape = shape; });
    } else if (const Emitter* emitter = session_.primary()) {
        session_.edit(
            withEmitter(session_.project(), session_.levelId(), emitter->id,
                        [&](Emitter& e) { (e.kind == EmitterKind::area ? e.area.shape : e.sprinkling.shape) = shape; }),
            tr("%1: %2").arg(QString::fromStdString(emitter->name), what), gesture);
    }
}

QPolygonF PlanView::onScreen(const std::vector<Vec2>& outline) const
{
    QPolygonF polygon;
    for (const Vec2& p : outline) {
        polygon << camera_.toScreen({p.x, p.y, 0.0});
    }
    return polygon;
}

std::vector<QPolygonF> PlanView::outlinesOf(const Shape& shape, const Solid::Frame& frame) const
{
    std::vector<QPolygonF> outlines;
    for (const auto& outline : Solid(shape, frame).footprint()) {
        outlines.push_back(onScreen(outline));
    }
    return outlines;
}

std::optional<ShapeGrip> PlanView::shapeGripAt(const QPointF& at) const
{
    const auto drawn = drawnShape();
    if (!drawn) {
        return {};
    }
    // Corners before sides: where a side is short they lie close.
    std::optional<ShapeGrip> best;
    for (const ShapeGrip& grip : gripsOf(drawn->shape, drawn->frame)) {
        if (distanceBetween(camera_.toScreen(grip.at), at) < gripGrab_px && (!best || best->kind == ShapeGrip::Kind::side)) {
            best = grip;
        }
    }
    return best;
}

std::optional<std::size_t> PlanView::stopAt(const QPointF& at) const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || emitter->kind != EmitterKind::roamer) {
        return {};
    }
    for (std::size_t i = 0; i < emitter->roaming.stops.size(); ++i) {
        if (distanceBetween(camera_.toScreen(emitter->roaming.stops[i].at), at) < stopGrab_px) {
            return i;
        }
    }
    return {};
}

const Zone* PlanView::zoneAt(const QPointF& at) const
{
    const Zone* best = nullptr;
    double nearest = outlineGrab_px;
    for (const auto& zone : session_.level().zones) {
        if (!onStorey(*zone)) {
            continue;
        }
        for (const QPolygonF& outline : outlinesOf(zone->shape, frameOf(zone->at, zone->heading_deg, zone->riding))) {
            if (const double distance = distanceToOutline(outline, at); distance < nearest) {
                nearest = distance;
                best = zone.get();
            }
        }
    }
    return best;
}

const Emitter* PlanView::areaAt(const QPointF& at) const
{
    for (const auto& emitter : session_.level().emitters) {
        if (emitter->kind != EmitterKind::area) {
            continue;
        }
        for (const QPolygonF& outline :
             outlinesOf(emitter->area.shape, frameOf(emitter->at, emitter->heading_deg, emitter->riding))) {
            if (distanceToOutline(outline, at) < outlineGrab_px) {
                return emitter.get();
            }
        }
    }
    return nullptr;
}

QPointF PlanView::placeOfGrip(ShapeGrip::Kind kind, std::size_t index) const
{
    if (const auto drawn = drawnShape()) {
        for (const ShapeGrip& grip : gripsOf(drawn->shape, drawn->frame)) {
            if (grip.kind == kind && grip.index == index) {
                return camera_.toScreen(grip.at);
            }
        }
    }
    return {-1, -1};
}

void PlanView::removeCornerAt(const QPointF& at)
{
    const auto drawn = drawnShape();
    const auto grip = shapeGripAt(at);
    if (drawn && grip && grip->kind == ShapeGrip::Kind::corner) {
        if (const auto next = withoutCorner(drawn->shape, grip->index)) {
            setShape(*next, tr("one corner less"), {});
        }
    } else if (const auto stop = stopAt(at)) {
        const Emitter* emitter = session_.primary();
        session_.edit(withEmitter(session_.project(), session_.levelId(), emitter->id,
                                  [&](Emitter& e) {
                                      e.roaming.stops.erase(e.roaming.stops.begin() + static_cast<std::ptrdiff_t>(*stop));
                                  }),
                      tr("%1: one stop less").arg(QString::fromStdString(emitter->name)));
    }
}

void PlanView::addDrawnPoint(const QPointF& at)
{
    const Vec3 place = dropPlace(at);
    drawnPoints_.push_back({place.x, place.y});
    update();
}

void PlanView::finishDrawing()
{
    const std::vector<Vec2> points = std::exchange(drawnPoints_, {});
    setTool(Tool::select);
    if (points.size() < 2) {
        return;
    }
    const Emitter* emitter = session_.primary();
    if (emitter != nullptr && emitter->kind == EmitterKind::roamer) {
        const double height = emitter->roaming.stops.empty() ? dropPlace({}).z : emitter->roaming.stops.front().at.z;
        session_.edit(withEmitter(session_.project(), session_.levelId(), emitter->id,
                                  [&](Emitter& e) {
                                      e.roaming.stops.clear();
                                      for (const Vec2& p : points) {
                                          e.roaming.stops.push_back({{p.x, p.y, height}, {}, {}});
                                      }
                                  }),
                      tr("%1: %2 stops").arg(QString::fromStdString(emitter->name)).arg(points.size()));
        return;
    }
    const auto drawn = drawnShape();
    const bool line = drawn && std::holds_alternative<Ribbon>(drawn->shape);
    if (points.size() < 3 && !line) {
        return;
    }
    if (!drawn) {
        // Nothing selected takes a shape: it becomes a zone.
        Zone zone;
        zone.name = tr("Zone %1").arg(session_.level().zones.size() + 1).toStdString();
        Vec2 middle{0.0};
        for (const Vec2& p : points) {
            middle += p / static_cast<double>(points.size());
        }
        const Vec2 origin{std::round(middle.x * 10.0) / 10.0, std::round(middle.y * 10.0) / 10.0};
        zone.at = {origin.x, origin.y, floorShown()};
        Prism prism{{}, 3.0};
        for (const Vec2& p : points) {
            prism.corners.push_back(
                {std::round((p.x - origin.x) * 100.0) / 100.0, std::round((p.y - origin.y) * 100.0) / 100.0});
        }
        zone.shape = std::move(prism);
        session_.addZone(std::move(zone));
        return;
    }
    const auto [low, high] = Solid(drawn->shape, {}).box();
    const auto own = [&](const Vec2& p) {
        const Vec3 way{p.x - drawn->frame.at.x, p.y - drawn->frame.at.y, 0.0};
        return Vec2{std::round(glm::dot(way, drawn->frame.aside) * 100.0) / 100.0,
                    std::round(glm::dot(way, drawn->frame.ahead) * 100.0) / 100.0};
    };
    if (line) {
        Ribbon ribbon = std::get<Ribbon>(drawn->shape);
        const double z = ribbon.points.empty() ? 0.0 : ribbon.points.front().z;
        ribbon.points.clear();
        for (const Vec2& p : points) {
            ribbon.points.push_back({own(p).x, own(p).y, z});
        }
        setShape(ribbon, tr("a line of %1 points").arg(points.size()), {});
    } else {
        Prism prism{{}, std::max(high.z - low.z, 0.1)};
        for (const Vec2& p : points) {
            prism.corners.push_back(own(p));
        }
        setShape(prism, tr("a polygon of %1 corners").arg(points.size()), {});
    }
}

void PlanView::setPreview(double time_s)
{
    preview_s_ = time_s;
    update();
}

double PlanView::floorShown() const
{
    const auto& storeys = session_.level().storeys;
    return storeys.empty()
               ? 0.0
               : storeys[static_cast<std::size_t>(std::min<int>(storey_, static_cast<int>(storeys.size()) - 1))].floor_m;
}

void PlanView::paintZones(QPainter& painter, LabelLayer& labels) const
{
    const WorldState* state = playback_.world();
    const World& world = playback_.hearing().world();
    ZonesAt here;
    if (state != nullptr) {
        here = state->zones;
    } else {
        world.zonesAt(playback_.moment(), here);
    }
    for (const auto& zone : session_.level().zones) {
        if (!onStorey(*zone)) {
            continue;
        }
        const bool selected = session_.zone() == zone.get();
        const auto index = world.zones().indexOf(zone->id);
        const bool inside = index && here.depth(*index) > 0.0;
        QColor colour = theme::lapis;
        for (const QPolygonF& outline : outlinesOf(zone->shape, frameOf(zone->at, zone->heading_deg, zone->riding))) {
            QPainterPath path;
            path.addPolygon(outline);
            path.closeSubpath();
            if (selected && zone->margin_m > 0.0) {
                // The margin lies outside: a broad stroke, of which the inner half is covered again.
                QColor margin = colour;
                margin.setAlpha(28);
                painter.save();
                QPainterPath outside;
                outside.addRect(rect());
                painter.setClipPath(outside.subtracted(path));
                painter.strokePath(path, QPen(margin, 2.0 * zone->margin_m * camera_.pixelsPerMetre, Qt::SolidLine,
                                              Qt::RoundCap, Qt::RoundJoin));
                painter.restore();
            }
            colour.setAlpha(inside ? 11 : 4);
            painter.fillPath(path, colour);
            colour.setAlpha(selected ? 255 : 150);
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, selected ? 2.0 : 1.1, Qt::DashDotLine));
            painter.drawPath(path);
            const QRectF box = path.boundingRect();
            labels.add(painter, QString::fromStdString(zone->name).toUpper(),
                       theme::text(7.5, selected ? QFont::Bold : QFont::Normal), theme::lapis,
                       QPointF(box.left() + 6, box.top() + 9), 2.0, selected);
        }
    }
}

void PlanView::paintAreas(QPainter& painter) const
{
    const auto& emitters = session_.level().emitters;
    const World& world = playback_.hearing().world();
    for (std::uint32_t i = 0; i < emitters.size(); ++i) {
        const Emitter& emitter = *emitters[i];
        const bool scatter = emitter.kind == EmitterKind::sprinkle && emitter.sprinkling.where == Sprinkling::Where::shape;
        if (emitter.kind != EmitterKind::area && !scatter) {
            continue;
        }
        const bool selected = session_.selection().contains(emitter.id);
        QColor colour = theme::colourOf(emitter.kind);
        const Shape& shape = scatter ? emitter.sprinkling.shape : emitter.area.shape;
        for (const QPolygonF& outline : outlinesOf(shape, frameOf(emitter.at, emitter.heading_deg, emitter.riding))) {
            QPainterPath path;
            path.addPolygon(outline);
            path.closeSubpath();
            colour.setAlpha(selected ? 60 : 32);
            painter.fillPath(path, QBrush(colour, Qt::BDiagPattern));
            colour.setAlpha(selected ? 255 : 140);
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, selected ? 1.8 : 1.1, scatter ? Qt::DotLine : Qt::SolidLine));
            painter.drawPath(path);
        }
        const bool known = i < world.level().emitters.size() && world.level().emitters[i]->id == emitter.id;
        if (scatter || !known) {
            continue;
        }
        const Heard heard = playback_.hearing().hearOne(playback_.moment(), i);
        if (heard.audible && heard.bearing.distance_m > 0.0) {
            // Where it sounds from just now.
            const QPointF at = camera_.toScreen(heard.at);
            colour.setAlpha(255);
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
            QPolygonF line;
            for (const Vec3& p : route.line()) {
                line << camera_.toScreen(p);
            }
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, selected ? 1.6 : 0.9, Qt::DashLine));
            painter.drawPolyline(line);
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
        if (emitter.kind == EmitterKind::steps) {
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

/// Where the selected sprinkle can fall round the player.
void PlanView::paintSprinkleRange(QPainter& painter) const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || emitter->kind != EmitterKind::sprinkle) {
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
}

void PlanView::paintGrips(QPainter& painter) const
{
    if (const auto drawn = drawnShape()) {
        for (const ShapeGrip& grip : gripsOf(drawn->shape, drawn->frame)) {
            const QPointF at = camera_.toScreen(grip.at);
            const bool side = grip.kind == ShapeGrip::Kind::side;
            painter.setPen(QPen(theme::ink, 1.1));
            painter.setBrush(side ? theme::line : theme::paper);
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

} // namespace stone
