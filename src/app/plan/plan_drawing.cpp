// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/plan/drawn_shape.h"
#include "app/plan/outline_distance.h"
#include "app/plan/sheet_shapes.h"
#include "app/theme/theme.h"
#include "geometry/drawing.h"

#include <QGuiApplication>

#include <cmath>

/// Shapes, stops and ranges: how they are taken hold of and drawn on the Plan.
namespace stone
{

namespace
{

constexpr double gripGrab_px = 8.0;
constexpr double outlineGrab_px = 5.0;
constexpr double stopGrab_px = 9.0;

} // namespace

/// The shape that can be worked on, as it lies on the sheet.
std::optional<DrawnShape> PlanView::shapeOnSheet() const
{
    auto drawn = drawnShape(session_, playback_);
    if (!drawn || !camera_.upright) {
        return drawn;
    }
    const auto laid = laidFlat(*drawn, *camera_.upright);
    return laid ? std::optional(DrawnShape{laid->shape, drawn->at + laid->shift, drawn->heading_deg, laid->frame})
                : std::nullopt;
}

/// Gives what is selected a shape as it lies on the sheet, moved by a way on it in its own frame.
void PlanView::setShapeOnSheet(const Shape& next, const Vec2& by, const QString& what, const QString& gesture)
{
    const auto drawn = shapeOnSheet();
    if (!drawn) {
        return;
    }
    if (camera_.upright) {
        setDrawnShape(session_, {stoodUp(next), drawn->at + camera_.wayOf(by), headingInto(*camera_.upright)}, what, gesture);
        return;
    }
    const Solid::Frame home = frameAt(drawn->at, drawn->heading_deg);
    setDrawnShape(session_, {next, drawn->at + home.aside * by.x + home.ahead * by.y, drawn->heading_deg}, what, gesture);
}

/// The grips of that shape, at places of the sheet; an upright one does not turn.
std::vector<ShapeGrip> PlanView::shapeGrips() const
{
    const auto drawn = shapeOnSheet();
    if (!drawn) {
        return {};
    }
    auto grips = gripsOf(drawn->shape, drawn->frame, turnAway_px / camera_.pixelsPerMetre);
    if (camera_.upright) {
        std::erase_if(grips, [](const ShapeGrip& grip) { return grip.kind == ShapeGrip::Kind::turn; });
    }
    return grips;
}

std::optional<ShapeGrip> PlanView::shapeGripAt(const QPointF& at) const
{
    // Corners before sides: where a side is short they lie close.
    std::optional<ShapeGrip> best;
    for (const ShapeGrip& grip : shapeGrips()) {
        if (distanceBetween(camera_.toScreen(Vec2(grip.at)), at) < gripGrab_px &&
            (!best || best->kind == ShapeGrip::Kind::side)) {
            best = grip;
        }
    }
    return best;
}

void PlanView::dragShape(const QPointF& at)
{
    const auto drawn = shapeOnSheet();
    if (!drawn || !shapeGrip_) {
        return;
    }
    const QString gesture = QString("drag %1").arg(gestures_);
    if (shapeGrip_->kind == ShapeGrip::Kind::turn) {
        const QPointF way = at - camera_.toScreen(Vec2(drawn->frame.at));
        const double now = degrees(std::atan2(drawn->frame.ahead.x, drawn->frame.ahead.y));
        const double wanted = degrees(std::atan2(way.x(), -way.y()));
        const double heading = std::round(wrapDegrees(drawn->heading_deg + wanted - now));
        setDrawnShape(session_, {drawn->shape, drawn->at, heading}, tr("turned to %1°").arg(heading), gesture);
        return;
    }
    const bool aboutMiddle = QGuiApplication::keyboardModifiers().testFlag(Qt::AltModifier);
    const bool rides = glm::length(drawn->frame.at - drawn->at) > 1e-9;
    if (!aboutMiddle && !rides) {
        if (const auto box = boxFromFarCorner(drawn->shape, drawn->frame, *shapeGrip_, snapped(camera_.toLevel(at)))) {
            setDrawnShape(session_, {box->shape, drawn->at + box->by, drawn->heading_deg}, tr("shape drawn"), gesture);
            return;
        }
    }
    setShapeOnSheet(dragged(drawn->shape, drawn->frame, *shapeGrip_, snapped(camera_.toLevel(at))), Vec2{0.0},
                    tr("shape drawn"), gesture);
    if (shapeGrip_->kind == ShapeGrip::Kind::side) {
        // It has become a corner.
        shapeGrip_ = ShapeGrip{ShapeGrip::Kind::corner, shapeGrip_->index + 1, {}};
    }
}

const Mesh::Node* PlanView::partUnder(const QPointF& at) const
{
    // What the sheet shows: from a track bed below the floor to a roof over the cut.
    constexpr double below_m = 1.3;
    constexpr double above_m = 6.0;
    const Mesh* mesh = session_.loadedLevel().mesh();
    return mesh != nullptr && !camera_.upright ? partAt(*mesh, camera_.toLevel(at), floorShown() - below_m, cut_m_ + above_m)
                                               : nullptr;
}

void PlanView::fitTo(const QPointF& at)
{
    const auto drawn = drawnShape(session_, playback_);
    const Mesh::Node* part = partUnder(at);
    if (drawn && part != nullptr) {
        setDrawnShape(session_, fittedTo(*session_.loadedLevel().mesh(), *part, drawn->shape.index()),
                      tr("fitted to %1").arg(QString::fromStdString(part->name)), {});
        setTool(Tool::select);
    }
}

QPointF PlanView::besidePlayer(const Vec2& p) const
{
    const double heading = radians(playback_.feet().heading_deg);
    const Vec2 ahead{std::sin(heading), std::cos(heading)};
    const Vec2 offset = (Vec2{ahead.y, -ahead.x} * p.x + ahead * p.y) * camera_.pixelsPerMetre;
    return placeOfEars() + QPointF(offset.x, -offset.y);
}

Vec2 PlanView::asThePlayerFaces(const QPointF& at) const
{
    const double heading = radians(playback_.feet().heading_deg);
    const Vec2 ahead{std::sin(heading), std::cos(heading)};
    const QPointF offset = (at - placeOfEars()) / camera_.pixelsPerMetre;
    const Vec2 way{offset.x(), -offset.y()};
    return {glm::dot(way, Vec2{ahead.y, -ahead.x}), glm::dot(way, ahead)};
}

std::optional<RangeGrip> PlanView::rangeGripAt(const QPointF& at) const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || emitter->kind != EmitterKind::sprinkle || camera_.upright) {
        return {};
    }
    for (const RangeGrip& grip : rangeGripsOf(emitter->sprinkling)) {
        if (distanceBetween(besidePlayer(grip.at), at) < gripGrab_px) {
            return grip;
        }
    }
    return {};
}

QPointF PlanView::placeOfRange(RangeGrip::End end) const
{
    const Emitter* emitter = session_.primary();
    for (const RangeGrip& grip : emitter != nullptr ? rangeGripsOf(emitter->sprinkling) : std::vector<RangeGrip>{}) {
        if (grip.end == end) {
            return besidePlayer(grip.at);
        }
    }
    return {-1, -1};
}

void PlanView::dragRange(const QPointF& at)
{
    if (const Emitter* emitter = session_.primary()) {
        const Sprinkling next = pulled(emitter->sprinkling, rangeEnd_, asThePlayerFaces(at));
        session_.edit(
            withEmitter(session_.project(), session_.levelId(), emitter->id, [&](Emitter& e) { e.sprinkling = next; }),
            tr("%1: range drawn").arg(QString::fromStdString(emitter->name)), QString("drag %1").arg(gestures_));
    }
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
        if (!onStorey(*zone) || (!shows(PlanPart::zones) && session_.selected<Zone>() != zone.get())) {
            continue;
        }
        for (const QPolygonF& outline :
             outlinesOf(zone->shape, frameNow(playback_, zone->at, zone->heading_deg, zone->riding))) {
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
             outlinesOf(emitter->area.shape, frameNow(playback_, emitter->at, emitter->heading_deg, emitter->riding))) {
            if (distanceToOutline(outline, at) < outlineGrab_px) {
                return emitter.get();
            }
        }
    }
    return nullptr;
}

QPointF PlanView::placeOfGrip(ShapeGrip::Kind kind, std::size_t index) const
{
    for (const ShapeGrip& grip : shapeGrips()) {
        if (grip.kind == kind && grip.index == index) {
            return camera_.toScreen(Vec2(grip.at));
        }
    }
    return {-1, -1};
}

void PlanView::removeCornerAt(const QPointF& at)
{
    const auto drawn = shapeOnSheet();
    const auto grip = shapeGripAt(at);
    if (drawn && grip && grip->kind == ShapeGrip::Kind::corner) {
        if (const auto next = withoutCorner(drawn->shape, grip->index)) {
            setShapeOnSheet(*next, Vec2{0.0}, tr("one corner less"), {});
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
    drawnPoints_.push_back(camera_.toSheet(dropPlace(at)));
    update();
}

void PlanView::finishDrawing()
{
    std::vector<Vec2> points = std::exchange(drawnPoints_, {});
    setTool(Tool::select);
    if (points.size() < 2) {
        return;
    }
    const Emitter* emitter = session_.primary();
    if (emitter != nullptr && emitter->kind == EmitterKind::roamer) {
        const Vec3 as = emitter->roaming.stops.empty() ? dropPlace({}) : emitter->roaming.stops.front().at;
        session_.edit(withEmitter(session_.project(), session_.levelId(), emitter->id,
                                  [&](Emitter& e) {
                                      e.roaming.stops.clear();
                                      for (const Vec2& p : points) {
                                          e.roaming.stops.push_back({camera_.placed(p, as), {}, {}});
                                      }
                                  }),
                      tr("%1: %2 stops").arg(QString::fromStdString(emitter->name)).arg(points.size()));
        return;
    }
    const auto drawn = shapeOnSheet();
    const bool line = drawn && std::holds_alternative<Ribbon>(drawn->shape);
    if (points.size() == 2 && !line) {
        // From corner to corner.
        const Vec2 from = points.front();
        const Vec2 to = points.back();
        points = {from, {to.x, from.y}, to, {from.x, to.y}};
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
        zone.at = camera_.placed(origin, middleOfSheet());
        Prism prism{{}, 3.0};
        for (const Vec2& p : points) {
            prism.corners.push_back({toCentimetre(p.x - origin.x), toCentimetre(p.y - origin.y)});
        }
        zone.shape = std::move(prism);
        if (camera_.upright) {
            standUp(zone, *camera_.upright);
        }
        session_.addThing(std::move(zone));
        return;
    }
    const auto [low, high] = Solid(drawn->shape, {}).box();
    std::vector<Vec2> own;
    Vec2 middle{0.0};
    for (const Vec2& p : points) {
        const Vec3 way{p - Vec2(drawn->frame.at), 0.0};
        own.emplace_back(toCentimetre(glm::dot(way, drawn->frame.aside)), toCentimetre(glm::dot(way, drawn->frame.ahead)));
        middle += own.back() / static_cast<double>(points.size());
    }
    // Its handle comes along to where it is now.
    middle = {toCentimetre(middle.x), toCentimetre(middle.y)};
    const auto aboutIt = [&](const Vec2& p) { return Vec2{toCentimetre(p.x - middle.x), toCentimetre(p.y - middle.y)}; };
    if (line) {
        Ribbon ribbon = std::get<Ribbon>(drawn->shape);
        const double z = ribbon.points.empty() ? 0.0 : ribbon.points.front().z;
        ribbon.points.clear();
        for (const Vec2& p : own) {
            ribbon.points.push_back({aboutIt(p), z});
        }
        setShapeOnSheet(ribbon, middle, tr("a line of %1 points").arg(points.size()), {});
    } else {
        Prism prism{{}, std::max(high.z - low.z, 0.1)};
        for (const Vec2& p : own) {
            prism.corners.push_back(aboutIt(p));
        }
        setShapeOnSheet(prism, middle, tr("a polygon of %1 corners").arg(points.size()), {});
    }
}

} // namespace stone
