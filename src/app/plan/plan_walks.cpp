// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/outline_distance.h"
#include "app/plan/plan_view.h"
#include "app/theme/theme.h"
#include "app/walks/way_on_floor.h"
#include "geometry/drawing.h"
#include "world/walk_making.h"

#include <QPainter>

#include <algorithm>
#include <cmath>
#include <utility>

/// Walks on the Plan: drawn, picked, changed.
namespace stone
{

namespace
{

constexpr double walkPointGrab_px = 9.0;
constexpr double wayGrab_px = 6.0;
constexpr double arrowEvery_px = 70.0;

/// Which way one goes, every so often along the line.
void drawArrows(QPainter& painter, const QPolygonF& way)
{
    double since = arrowEvery_px / 2.0;
    for (int i = 1; i < way.size(); ++i) {
        const QPointF leg = way[i] - way[i - 1];
        const double length = std::hypot(leg.x(), leg.y());
        if (length < 1e-6) {
            continue;
        }
        const QPointF ahead = leg / length;
        const QPointF aside(-ahead.y(), ahead.x());
        for (; since < length; since += arrowEvery_px) {
            const QPointF tip = way[i - 1] + ahead * (since + 4.0);
            painter.drawPolyline(QPolygonF{tip - ahead * 7.0 + aside * 4.0, tip, tip - ahead * 7.0 - aside * 4.0});
        }
        since -= length;
    }
}

} // namespace

void PlanView::drawWalk(QPainter& painter) const
{
    const Walk* walk = chosenWalk();
    if (walk == nullptr) {
        return;
    }
    QPolygonF way;
    for (const WalkPoint& point : walk->points) {
        way << camera_.toScreen(point.at);
    }
    const bool selected = session_.selected<Walk>() == walk;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(selected ? theme::ink : theme::soft, 1.6, Qt::DotLine, Qt::RoundCap));
    painter.drawPolyline(way);
    painter.setPen(QPen(selected ? theme::ink : theme::soft, 1.2));
    if (selected) {
        drawArrows(painter, way);
    }
    painter.setBrush(theme::paper);
    for (const QPointF& point : way) {
        painter.drawEllipse(point, 2.4, 2.4);
    }
}

/// The points of the selected walk, to be pulled: where it begins is a square. And one that is being drawn.
void PlanView::paintWalkGrips(QPainter& painter) const
{
    painter.setPen(QPen(theme::ink, 1.4));
    if (const auto* walk = session_.selected<Walk>()) {
        for (std::size_t i = 0; i < walk->points.size(); ++i) {
            const QPointF at = placeOfWalkPoint(i);
            painter.setBrush(onStorey(walk->points[i].at.z + 0.1) ? theme::paper : theme::shade);
            if (i == 0) {
                painter.drawRect(QRectF(at.x() - 5, at.y() - 5, 10, 10));
            } else {
                painter.drawEllipse(at, 4.2, 4.2);
            }
        }
    }
    if (tool_ == Tool::walk && !drawnWalk_.empty()) {
        QPolygonF way;
        for (const Vec3& point : drawnWalk_) {
            way << camera_.toScreen(point);
        }
        way << lastAt_;
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme::ink, 1.6, Qt::DotLine, Qt::RoundCap));
        painter.drawPolyline(way);
        painter.setPen(QPen(theme::ink, 1.4));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(way.front().x() - 5, way.front().y() - 5, 10, 10));
    }
}

QPointF PlanView::placeOfWalkPoint(std::size_t point) const
{
    const auto* walk = session_.selected<Walk>();
    return walk != nullptr && point < walk->points.size() ? camera_.toScreen(walk->points[point].at) : QPointF(-1, -1);
}

std::optional<std::size_t> PlanView::walkPointAt(const QPointF& at) const
{
    const auto* walk = session_.selected<Walk>();
    std::optional<std::size_t> best;
    double nearest = walkPointGrab_px;
    for (std::size_t i = 0; walk != nullptr && i < walk->points.size(); ++i) {
        // Of two in one place the one on the shown storey.
        const double distance = distanceBetween(placeOfWalkPoint(i), at) - (onStorey(walk->points[i].at.z + 0.1) ? 2.0 : 0.0);
        if (distance < nearest) {
            nearest = distance;
            best = i;
        }
    }
    return best;
}

/// The leg of the chosen walk that passes there.
std::optional<std::size_t> PlanView::legAt(const QPointF& at) const
{
    const Walk* walk = shows(PlanPart::walks) ? chosenWalk() : nullptr;
    std::optional<std::size_t> best;
    double nearest = wayGrab_px;
    for (std::size_t i = 1; walk != nullptr && i < walk->points.size(); ++i) {
        const double distance =
            distanceToLine(camera_.toScreen(walk->points[i - 1].at), camera_.toScreen(walk->points[i].at), at);
        if (distance < nearest) {
            nearest = distance;
            best = i - 1;
        }
    }
    return best;
}

/// On the floor that is meant; on an upright sheet only what is drawn close to one, as anything else is in the air.
Vec3 PlanView::feetAt(const Vec3& place) const
{
    constexpr double close_m = 0.4;
    const Vec3 feet = onFloorNear(session_.loadedLevel(), place);
    return camera_.upright && std::abs(feet.z - place.z) > close_m ? place : feet;
}

void PlanView::dragWalkPoint(const QPointF& at)
{
    const auto* walk = session_.selected<Walk>();
    if (walk == nullptr || walkPoint_ >= walk->points.size()) {
        return;
    }
    const Vec3 feet = feetAt(camera_.placed(drawnAt(at), walk->points[walkPoint_].at));
    session_.editThing<Walk>(tr("point %1 moved").arg(walkPoint_ + 1), QString("drag %1").arg(gestures_),
                             [&](Walk& w) { w = withPointAt(std::move(w), walkPoint_, feet); });
}

/// A double click on a point of the selected walk takes it away, on its way one more is made.
bool PlanView::addOrRemoveWalkPoint(const QPointF& at)
{
    const auto* walk = session_.selected<Walk>();
    if (walk == nullptr) {
        return false;
    }
    if (const auto point = walkPointAt(at)) {
        if (walk->points.size() > 2) {
            session_.editThing<Walk>(tr("point %1 taken away").arg(*point + 1), {},
                                     [&](Walk& w) { w = withoutPoint(std::move(w), *point); });
        }
        return true;
    }
    if (const auto leg = legAt(at)) {
        const Vec3& a = walk->points[*leg].at;
        const Vec3& b = walk->points[*leg + 1].at;
        const Vec2 p = camera_.toLevel(at);
        const Vec2 from = camera_.toSheet(a);
        const Vec2 way = camera_.toSheet(b) - from;
        const double share = std::clamp(glm::dot(p - from, way) / std::max(glm::dot(way, way), 1e-9), 0.0, 1.0);
        const Vec3 on = camera_.placed(p, a + (b - a) * share);
        const Vec3 there{toCentimetre(on.x), toCentimetre(on.y), toCentimetre(on.z)};
        session_.editThing<Walk>(tr("one point more"), {}, [&](Walk& w) { w = withPointOn(std::move(w), *leg, there); });
        return true;
    }
    return false;
}

void PlanView::addPointOfWalk(const QPointF& at)
{
    const Vec3 place = camera_.placed(drawnAt(at), middleOfSheet());
    drawnWalk_.push_back(camera_.upright ? feetAt(place) : place);
    update();
}

void PlanView::finishWalk()
{
    const std::vector<Vec3> places = std::exchange(drawnWalk_, {});
    setTool(Tool::select);
    // On an upright sheet one leaps: what is no way on foot is meant.
    WayOnFloor way = camera_.upright ? WayOnFloor{places} : wayOnFloor(session_.loadedLevel(), places);
    Walk walk = walkThrough(way.points, session_.level().character.speed_m_s);
    if (walk.points.size() < 2) {
        return;
    }
    walk.name = tr("Walk").toStdString();
    session_.addThing(std::move(walk));
    if (way.blocked > 0) {
        emit notPassable(way.blocked);
    }
}

} // namespace stone
