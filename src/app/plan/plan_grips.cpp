// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "acoustics/facing.h"
#include "app/lanes/lane_scale.h"
#include "app/plan/drawn_shape.h"
#include "app/plan/outline_distance.h"
#include "app/theme/theme.h"
#include "app/walks/way_on_floor.h"
#include "geometry/drawing.h"

#include <QMouseEvent>

#include <cmath>

/// What is done on the Plan with mouse and drag and drop.
namespace stone
{

namespace
{

constexpr double emitterGrab_px = 11.0;
constexpr double ringGrab_px = 5.0;
constexpr double earsGrab_px = 15.0;
constexpr double pointGrab_px = 8.0;

} // namespace

const Emitter* PlanView::emitterAt(const QPointF& at) const
{
    const Emitter* best = nullptr;
    double nearest = emitterGrab_px;
    const auto& emitters = session_.level().emitters;
    for (std::size_t i = 0; i < emitters.size(); ++i) {
        const auto& emitter = emitters[i];
        if (!isOnPlan(*emitter) || !isDrawn(i)) {
            continue;
        }
        const Vec3 place = placeNow(*emitter);
        // Of two in one place, what is on the shown storey and what is selected comes first.
        const double bonus = (onStorey(place.z) ? 2.0 : 0.0) + (session_.selection().contains(emitter->id) ? 1.0 : 0.0);
        const double distance = distanceBetween(camera_.toScreen(place), at) - bonus;
        if (distance < nearest) {
            nearest = distance;
            best = emitter.get();
        }
    }
    return best;
}

PlanView::Grip PlanView::gripAt(const QPointF& at) const
{
    if (distanceBetween(at, placeOfNose()) < pointGrab_px) {
        return Grip::nose;
    }
    if (const Emitter* primary = session_.primary(); primary != nullptr && primary->kind == EmitterKind::point &&
                                                     frontIsSeen() && distanceBetween(at, placeOfFront()) < pointGrab_px) {
        return Grip::front;
    }
    if (openingEndAt(at)) {
        return Grip::opening;
    }
    if (walkPointAt(at)) {
        return Grip::walkPoint;
    }
    if (shapeGripAt(at)) {
        return Grip::shape;
    }
    if (stopAt(at)) {
        return Grip::stop;
    }
    if (rangeGripAt(at)) {
        return Grip::range;
    }
    if (const auto share = placeOfEarsGrip(); share && distanceBetween(at, *share) < pointGrab_px) {
        return Grip::share;
    }
    const Emitter* emitter = emitterAt(at);
    const double toEars = distanceBetween(at, placeOfEars());
    if (emitter != nullptr && (toEars > earsGrab_px || distanceBetween(camera_.toScreen(placeNow(*emitter)), at) < toEars)) {
        return Grip::emitters;
    }
    if (toEars < earsGrab_px) {
        return Grip::ears;
    }
    if (!copyAt(at).empty()) {
        return Grip::copy;
    }
    if (const Emitter* primary = session_.primary(); primary != nullptr && hasOnePlace(*primary)) {
        const double r = distanceBetween(camera_.toScreen(placeNow(*primary)), at);
        const Ring full = fullRing();
        const Ring silent = silentRing();
        if (full.drawn && std::abs(r - full.radius_m * camera_.pixelsPerMetre) < ringGrab_px) {
            return Grip::fullRing;
        }
        if (silent.drawn && std::abs(r - silent.radius_m * camera_.pixelsPerMetre) < ringGrab_px) {
            return Grip::silentRing;
        }
    }
    if (areaAt(at) != nullptr) {
        return Grip::emitters;
    }
    return legAt(at) ? Grip::way : zoneAt(at) != nullptr ? Grip::zone : Grip::sheet;
}

void PlanView::press(const QPointF& at, Qt::KeyboardModifiers modifiers)
{
    if (tool_ == Tool::place) {
        session_.addEmitter(soundToPlace_, dropPlace(at));
        setTool(Tool::select);
        grip_ = Grip::none;
        return;
    }
    if (tool_ == Tool::draw || tool_ == Tool::fit || tool_ == Tool::opening || tool_ == Tool::walk) {
        if (tool_ == Tool::opening) {
            addOpeningPoint(at);
        } else if (tool_ == Tool::walk) {
            addPointOfWalk(at);
        } else if (tool_ == Tool::draw) {
            addDrawnPoint(at);
        } else {
            fitTo(at);
        }
        grip_ = Grip::none;
        return;
    }
    if (measured_) {
        measured_.reset();
        emit measuring();
    }
    if (overviewRect().contains(at)) {
        grip_ = Grip::overview;
        centreByOverview(at);
        return;
    }
    grip_ = gripAt(at);
    if (modifiers.testFlag(Qt::ControlModifier) && grip_ != Grip::emitters) {
        grip_ = Grip::measure;
        return;
    }
    if (grip_ == Grip::shape) {
        shapeGrip_ = shapeGripAt(at);
    } else if (grip_ == Grip::opening) {
        openingEnd_ = openingEndAt(at).value_or(0);
    } else if (grip_ == Grip::stop) {
        stop_ = stopAt(at).value_or(0);
    } else if (grip_ == Grip::walkPoint) {
        walkPoint_ = walkPointAt(at).value_or(0);
    } else if (grip_ == Grip::way) {
        session_.selectThing<Walk>(playback_.walk());
    } else if (grip_ == Grip::range) {
        rangeEnd_ = rangeGripAt(at)->end;
    } else if (grip_ == Grip::zone) {
        const Zone* zone = zoneAt(at);
        grabOffset_ = camera_.toSheet(zone->at) - camera_.toLevel(at);
        session_.selectThing<Zone>(zone->id);
    }
    if ((grip_ == Grip::sheet || grip_ == Grip::zone) && !modifiers.testFlag(Qt::ShiftModifier)) {
        if (const Opening* opening = openingAt(at)) {
            session_.selectThing<Opening>(opening->id);
            grip_ = Grip::none;
        }
    }
    if (grip_ == Grip::sheet && modifiers.testFlag(Qt::ShiftModifier)) {
        grip_ = Grip::band;
    }
    if (grip_ == Grip::emitters) {
        const Emitter* emitter = emitterAt(at) != nullptr ? emitterAt(at) : areaAt(at);
        grabbed_ = emitter->id;
        grabOffset_ = camera_.toSheet(handleOf(*emitter)) - camera_.toLevel(at);
        auto selection = session_.selection();
        if (modifiers & (Qt::ShiftModifier | Qt::ControlModifier)) {
            if (!selection.erase(emitter->id)) {
                selection.insert(emitter->id);
            }
            session_.select(selection, emitter->id);
        } else if (!selection.contains(emitter->id)) {
            session_.selectOnly(emitter->id);
        } else {
            session_.select(selection, emitter->id);
        }
    }
    if (grip_ == Grip::copy) {
        session_.selectCopy(copyAt(at));
        grabOffset_ = camera_.toSheet(session_.selected<Plant>()->at) - camera_.toLevel(at);
    }
    if (grip_ == Grip::ears) {
        grabOffset_ = camera_.toSheet(playback_.feet().at) - camera_.toLevel(at);
    }
}

void PlanView::mousePressEvent(QMouseEvent* event)
{
    setFocus(Qt::MouseFocusReason);
    pressedAt_ = lastAt_ = event->position();
    moved_ = false;
    ++gestures_;
    if (event->button() == Qt::MiddleButton || event->button() == Qt::RightButton) {
        grip_ = Grip::sheet;
        moved_ = true; // never a click that deselects
        rightPressedAt_ = event->pos();
    } else if (event->button() == Qt::LeftButton) {
        press(event->position(), event->modifiers());
    }
}

/// Where what was grabbed is dragged to.
Vec2 PlanView::draggedTo(const QPointF& at) const
{
    const Vec2 wanted = snapped(camera_.toLevel(at) + grabOffset_);
    return {toCentimetre(wanted.x), toCentimetre(wanted.y)};
}

/// Which way something faces that points so on the screen; on an upright sheet to the left or to the right.
double PlanView::headingOnSheet(const QPointF& offset) const
{
    constexpr double quarter_deg = 90.0;
    return camera_.upright ? headingInto(*camera_.upright) + (offset.x() < 0.0 ? -quarter_deg : quarter_deg)
                           : degrees(std::atan2(offset.x(), -offset.y()));
}

void PlanView::dragFront(const QPointF& at)
{
    if (const Emitter* emitter = session_.primary()) {
        const QPointF offset = at - camera_.toScreen(placeNow(*emitter));
        const double heading = std::round(headingOnSheet(offset));
        const double tilt = std::round(degrees(std::atan2(-offset.y(), std::abs(offset.x()))));
        session_.edit(withEmitter(session_.project(), session_.levelId(), emitter->id,
                                  [&](Emitter& e) {
                                      e.heading_deg = heading;
                                      e.tilt_deg = camera_.upright ? tilt : e.tilt_deg;
                                  }),
                      tr("Turn %1 to %2°").arg(QString::fromStdString(emitter->name)).arg(heading),
                      QString("turn %1").arg(gestures_));
    }
}

void PlanView::drag(const QPointF& at)
{
    switch (grip_) {
    case Grip::sheet:
        camera_.centre -=
            Vec2{(at.x() - lastAt_.x()) / camera_.pixelsPerMetre, -(at.y() - lastAt_.y()) / camera_.pixelsPerMetre};
        update();
        break;
    case Grip::emitters:
        if (const Emitter* emitter = session_.level().emitters.find(grabbed_)) {
            const Vec2 way = draggedTo(at) - camera_.toSheet(handleOf(*emitter));
            session_.moveSelected(camera_.wayOf(way), QString("drag %1").arg(gestures_));
        }
        break;
    case Grip::zone:
        if (session_.selected<Zone>() != nullptr) {
            session_.editThing<Zone>(tr("moved"), QString("drag %1").arg(gestures_),
                                     [&](Zone& z) { z.at = camera_.placed(draggedTo(at), z.at); });
        }
        break;
    case Grip::shape: dragShape(at); break;
    case Grip::copy: dragPlant(at); break;
    case Grip::share: dragEarsShare(at); break;
    case Grip::opening: dragOpening(at); break;
    case Grip::walkPoint: dragWalkPoint(at); break;
    case Grip::range: dragRange(at); break;
    case Grip::stop:
        if (const Emitter* emitter = session_.primary()) {
            session_.edit(withEmitter(session_.project(), session_.levelId(), emitter->id,
                                      [&](Emitter& e) {
                                          if (stop_ < e.roaming.stops.size()) {
                                              Vec3& stop = e.roaming.stops[stop_].at;
                                              stop = camera_.placed(drawnAt(at), stop);
                                          }
                                      }),
                          tr("%1: stop %2 moved").arg(QString::fromStdString(emitter->name)).arg(stop_ + 1),
                          QString("drag %1").arg(gestures_));
        }
        break;
    case Grip::fullRing:
    case Grip::silentRing: dragRing(at); break;
    case Grip::front: dragFront(at); break;
    case Grip::ears: {
        Pose feet = playback_.feet();
        feet.at = camera_.placed(camera_.toLevel(at) + grabOffset_, feet.at);
        playback_.carryFeet(feet);
        break;
    }
    case Grip::nose: {
        Pose feet = playback_.feet();
        const QPointF offset = at - placeOfEars();
        if (distanceBetween(at, placeOfEars()) > 2.0) {
            feet.heading_deg = headingOnSheet(offset);
            playback_.carryFeet(feet);
        }
        break;
    }
    case Grip::band: update(); break;
    case Grip::measure:
        measured_ = {camera_.toLevel(pressedAt_), camera_.toLevel(at)};
        update();
        emit measuring();
        break;
    case Grip::overview: centreByOverview(at); break;
    case Grip::way:
    case Grip::none: break;
    }
}

void PlanView::mouseMoveEvent(QMouseEvent* event)
{
    const QPointF at = event->position();
    const Vec2 p = camera_.toLevel(at);
    const double unit = session_.level().metresPerUnit;
    const QString x = theme::signedNumber(p.x, 1);
    const QString y = theme::signedNumber(p.y, 1);
    QString where = (!camera_.upright                     ? tr("%1 m east, %2 m north")
                     : *camera_.upright == Looking::north ? tr("%1 m east, %2 m up")
                                                          : tr("%1 m north, %2 m up"))
                        .arg(x, y);
    if (unit != 1.0) {
        where += tr("  ·  %1, %2 units").arg(theme::signedNumber(p.x / unit, 1), theme::signedNumber(p.y / unit, 1));
    }
    emit pointed(where);
    emit pointedAt(p);
    if (event->buttons() == Qt::NoButton) {
        if (tool_ == Tool::draw || tool_ == Tool::fit || tool_ == Tool::opening || tool_ == Tool::walk) {
            lastAt_ = at;
            update();
        }
        const Emitter* under = emitterAt(at);
        if (const EmitterId now = under != nullptr ? under->id : EmitterId{}; now != hovered_) {
            hovered_ = now;
            update();
        }
        if (tool_ == Tool::select) {
            static const Qt::CursorShape shapes[] = {
                Qt::ArrowCursor,   Qt::ArrowCursor,        Qt::OpenHandCursor,     Qt::SizeAllCursor,
                Qt::SizeAllCursor, Qt::PointingHandCursor, Qt::OpenHandCursor,     Qt::PointingHandCursor,
                Qt::CrossCursor,   Qt::CrossCursor,        Qt::OpenHandCursor,     Qt::SizeAllCursor,
                Qt::SizeAllCursor, Qt::SizeAllCursor,      Qt::SizeAllCursor,      Qt::SizeAllCursor,
                Qt::SizeAllCursor, Qt::SizeAllCursor,      Qt::PointingHandCursor, Qt::PointingHandCursor};
            setCursor(shapes[static_cast<std::size_t>(gripAt(at))]);
        }
        return;
    }
    if (!moved_ && distanceBetween(at, pressedAt_) < 4.0) {
        return; // a click with an unsteady hand
    }
    moved_ = true;
    drag(at);
    lastAt_ = at;
}

void PlanView::mouseReleaseEvent(QMouseEvent* event)
{
    if (grip_ == Grip::band && moved_) {
        const QRectF band = QRectF(pressedAt_, event->position()).normalized();
        auto selection = session_.selection();
        EmitterId last;
        for (const auto& emitter : session_.level().emitters) {
            if (isOnPlan(*emitter) && band.contains(camera_.toScreen(placeNow(*emitter)))) {
                selection.insert(emitter->id);
                last = emitter->id;
            }
        }
        session_.select(selection, last);
    } else if (grip_ == Grip::sheet && !moved_) {
        selectInside(event->position());
    }
    grip_ = Grip::none;
    session_.endGesture();
    update();
    constexpr int still_px = 3;
    if (event->button() == Qt::RightButton && (event->pos() - rightPressedAt_).manhattanLength() <= still_px) {
        constexpr double ears_px = 16.0;
        emit menuWanted(event->globalPosition().toPoint(), camera_.toLevel(event->position()),
                        distanceBetween(event->position(), placeOfEars()) < ears_px);
    }
}

void PlanView::keyPressEvent(QKeyEvent* event)
{
    const bool drawing = tool_ == Tool::draw || tool_ == Tool::walk;
    if (drawing && (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)) {
        tool_ == Tool::draw ? finishDrawing() : finishWalk();
        return;
    }
    QWidget::keyPressEvent(event);
}

void PlanView::mouseDoubleClickEvent(QMouseEvent* event)
{
    if (tool_ == Tool::draw || tool_ == Tool::walk) {
        tool_ == Tool::draw ? finishDrawing() : finishWalk();
        grip_ = Grip::none;
        return;
    }
    if (addOrRemoveWalkPoint(event->position())) {
        grip_ = Grip::none;
        return;
    }
    removeCornerAt(event->position());
    // A double click on the ground walks there at once.
    if (gripAt(event->position()) == Grip::sheet && event->button() == Qt::LeftButton) {
        Pose feet = playback_.feet();
        feet.at = camera_.placed(camera_.toLevel(event->position()), middleOfSheet());
        if (camera_.upright) {
            feet.at = onFloorBelow(session_.loadedLevel(), feet.at);
        }
        playback_.placeFeet(feet);
    }
    grip_ = Grip::none;
}

void PlanView::wheelEvent(QWheelEvent* event)
{
    camera_.zoom(std::pow(1.0015, event->angleDelta().y()), event->position());
    update();
}

void PlanView::leaveEvent(QEvent*)
{
    hovered_ = {};
    update();
    emit pointed({});
    emit pointedAt({});
}

void PlanView::resizeEvent(QResizeEvent*)
{
    camera_.view = size();
    if (!fitted_ && !session_.loadingLevel()) {
        fitAll();
    }
}

} // namespace stone
