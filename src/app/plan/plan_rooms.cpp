// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/plan/drawn_shape.h"
#include "app/plan/outline_distance.h"
#include "app/theme/theme.h"
#include "geometry/drawing.h"
#include "world/carriage.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>
#include <vector>

/// Rooms and openings on the Plan: how they are drawn, and how openings are drawn by hand.
namespace stone
{

namespace
{

constexpr double grab_px = 7.0;
constexpr double usualHeight_m = 2.1;
constexpr double usualWidth_m = 2.0; ///< of one that runs across an upright sheet

} // namespace

/// What of rooms changes while one walks: the more of a room's late field is heard, the deeper its tint.
void PlanView::paintRooms(QPainter& painter, LabelLayer& labels) const
{
    const std::vector<RoomHeard>& heard = playback_.roomsHeard();
    const auto& rooms = session_.level().rooms;
    for (const Outlined& each : roomPaths_) {
        const Room& room = *rooms[each.index];
        const bool selected = session_.selected<Room>() == &room;
        const auto of = std::find_if(heard.begin(), heard.end(), [&](const RoomHeard& h) { return h.room == each.index; });
        if (of != heard.end() && of->share() > 0.0) {
            QColor tint = theme::ochre;
            tint.setAlpha(static_cast<int>(40.0 * std::clamp(of->share(), 0.0, 1.0)));
            painter.fillPath(each.path, tint);
        }
        const QRectF box = each.path.boundingRect();
        QString reverb;
        if (of != heard.end() && of->level_db > -60.0) {
            reverb = tr(" · reverb %1 dB").arg(theme::decibels(of->level_db));
        }
        labels.add({.text = QString::fromStdString(room.name),
                    .font = theme::text(7.5, selected ? QFont::Bold : QFont::Normal),
                    .colour = theme::umber,
                    .at = QPointF(box.left() + 6, box.bottom() - 9),
                    .radius = 2.0,
                    .rank = selected ? LabelLayer::Rank::selected : LabelLayer::Rank::space,
                    .tail = reverb});
    }
}

void PlanView::paintOpenings(QPainter& painter, LabelLayer& labels) const
{
    const World& world = playback_.hearing().world();
    const auto& openings = session_.level().openings;
    for (std::uint32_t i = 0; i < openings.size(); ++i) {
        const Opening& opening = *openings[i];
        if (!onStorey(opening.sill_m)) {
            continue;
        }
        const bool selected = session_.selected<Opening>() == &opening;
        const auto [from, to] = endsOnSheet(opening);
        const QPointF a = camera_.toScreen(from);
        const QPointF b = camera_.toScreen(to);
        const double open = i < world.level().openings.size() ? world.openShare(playback_.moment(), i) : opening.open;
        const bool joins = i >= world.rooms().holes().size() || world.rooms().holes()[i].joins();
        const QColor colour = joins ? theme::umber : theme::cinnabar;
        // The open part is a gap in a bar, from one end on.
        painter.setPen(QPen(theme::paper, 5.0, Qt::SolidLine, Qt::FlatCap));
        painter.drawLine(a, b);
        painter.setPen(QPen(colour, 1.2));
        const QPointF line = b - a;
        const double length = std::max(std::hypot(line.x(), line.y()), 1.0);
        const QPointF across = QPointF(-line.y(), line.x()) / length * 4.0;
        painter.drawLine(a - across, a + across);
        painter.drawLine(b - across, b + across);
        painter.setPen(QPen(colour, 3.6, Qt::SolidLine, Qt::FlatCap));
        if (open < 1.0) {
            painter.drawLine(a + line * open, b);
        }
        if (selected) {
            painter.setPen(QPen(theme::ink, 1.6));
            painter.setBrush(theme::paper);
            for (const QPointF& end : {a, b}) {
                painter.drawRect(QRectF(end - QPointF(4, 4), QSizeF(8, 8)));
            }
            labels.add({.text = tr("%1 · %2 % open").arg(QString::fromStdString(opening.name)).arg(std::lround(100.0 * open)),
                        .font = theme::text(8, QFont::Bold),
                        .colour = theme::ink,
                        .at = (a + b) / 2.0,
                        .radius = 8.0,
                        .rank = LabelLayer::Rank::selected});
        }
    }
    if (tool_ == Tool::opening && !drawnPoints_.empty()) {
        painter.setPen(QPen(theme::umber, 2, Qt::DashLine));
        painter.drawLine(camera_.toScreen(drawnPoints_.front()), lastAt_);
    }
}

/// From one side to the other; on an upright sheet, which it usually runs across, from its sill to its head.
std::array<Vec3, 2> PlanView::endsOnSheet(const Opening& opening) const
{
    if (!camera_.upright) {
        return {Vec3{opening.from, opening.sill_m}, Vec3{opening.to, opening.sill_m}};
    }
    const Vec2 middle = (opening.from + opening.to) / 2.0;
    return {Vec3{middle, opening.sill_m}, Vec3{middle, opening.head_m}};
}

/// An opening with one of those ends elsewhere on the sheet.
Opening PlanView::withEndAt(Opening opening, int end, const Vec2& to) const
{
    if (camera_.upright) {
        const Vec3 was = endsOnSheet(opening)[static_cast<std::size_t>(end)];
        const Vec3 way = camera_.placed(to, was) - was;
        opening.from += Vec2(way);
        opening.to += Vec2(way);
        (end == 0 ? opening.sill_m : opening.head_m) = toCentimetre(was.z + way.z);
        opening.head_m = std::max(opening.head_m, opening.sill_m);
    } else {
        (end == 0 ? opening.from : opening.to) = to;
    }
    return opening;
}

QPointF PlanView::placeOfOpeningEnd(int end) const
{
    const auto* opening = session_.selected<Opening>();
    return opening != nullptr ? camera_.toScreen(endsOnSheet(*opening)[static_cast<std::size_t>(end)]) : QPointF();
}

std::optional<int> PlanView::openingEndAt(const QPointF& at) const
{
    for (int end = 0; end < 2 && session_.selected<Opening>() != nullptr; ++end) {
        const QPointF off = placeOfOpeningEnd(end) - at;
        if (std::hypot(off.x(), off.y()) < grab_px + 2.0) {
            return end;
        }
    }
    return {};
}

const Opening* PlanView::openingAt(const QPointF& at) const
{
    if (!shows(PlanPart::openings)) {
        return nullptr;
    }
    for (const auto& opening : session_.level().openings) {
        const auto [from, to] = endsOnSheet(*opening);
        if (onStorey(opening->sill_m) && distanceToLine(camera_.toScreen(from), camera_.toScreen(to), at) < grab_px) {
            return opening.get();
        }
    }
    return nullptr;
}

const Room* PlanView::roomBorderAt(const QPointF& at) const
{
    if (!shows(PlanPart::rooms)) {
        return nullptr;
    }
    for (const auto& room : session_.level().rooms) {
        const Solid::Frame frame = frameAt(room->at, room->heading_deg);
        if (!onStorey(Solid(room->shape, frame).box()[0].z)) {
            continue;
        }
        for (const QPolygonF& outline : outlinesOf(room->shape, frame)) {
            if (distanceToOutline(outline, at) < grab_px) {
                return room.get();
            }
        }
    }
    return nullptr;
}

/// What one clicks into: the smallest of the rooms and zones there, with another click the next, and after the largest nothing.
/// What reaches beyond all that is seen is the ground that things stand on.
void PlanView::selectInside(const QPointF& at)
{
    struct Around {
        double size;
        const Room* room;
        const Zone* zone;
    };
    std::vector<Around> around;
    const auto add = [&](const QPainterPath& path, const Room* room, const Zone* zone) {
        if (path.contains(at) && !path.contains(QRectF(rect()))) {
            const QRectF box = path.boundingRect();
            around.push_back({box.width() * box.height(), room, zone});
        }
    };
    const Level& level = session_.level();
    for (const Outlined& outlined : roomPaths_) {
        add(outlined.path, level.rooms[outlined.index].get(), nullptr);
    }
    for (const Outlined& outlined : zonePaths_) {
        add(outlined.path, nullptr, level.zones[outlined.index].get());
    }
    std::stable_sort(around.begin(), around.end(), [](const Around& a, const Around& b) { return a.size < b.size; });
    const auto selected = std::find_if(around.begin(), around.end(), [this](const Around& a) {
        return a.room != nullptr ? a.room == session_.selected<Room>() : a.zone == session_.selected<Zone>();
    });
    if (around.empty()) {
        // Beside a wall one means the room behind it.
        if (const Room* room = roomBorderAt(at)) {
            session_.selectThing<Room>(room->id);
            return;
        }
    }
    const auto next = selected == around.end() ? around.begin() : std::next(selected);
    if (next == around.end()) {
        session_.selectNone();
    } else if (next->room != nullptr) {
        session_.selectThing<Room>(next->room->id);
    } else {
        session_.selectThing<Zone>(next->zone->id);
    }
}

void PlanView::dragOpening(const QPointF& at)
{
    const Vec2 to = drawnAt(at);
    const auto* opening = session_.selected<Opening>();
    if (opening != nullptr && to != camera_.toSheet(endsOnSheet(*opening)[openingEnd_ == 0 ? 1 : 0])) {
        session_.editThing<Opening>(openingEnd_ == 0 ? tr("begins elsewhere") : tr("ends elsewhere"),
                                    QString("opening drag %1").arg(gestures_),
                                    [&](Opening& o) { o = withEndAt(std::move(o), openingEnd_, to); });
    }
}

void PlanView::addOpeningPoint(const QPointF& at)
{
    const Vec2 p = drawnAt(at);
    if (!drawnPoints_.empty() && glm::length(p - drawnPoints_.front()) < 0.05) {
        return;
    }
    drawnPoints_.push_back(p);
    if (drawnPoints_.size() < 2) {
        update();
        return;
    }
    Opening opening;
    opening.name = tr("Opening %1").arg(session_.level().openings.size() + 1).toStdString();
    if (camera_.upright) {
        // Across the sheet, from the lower of the two up to the other.
        const auto [low, high] = std::minmax(drawnPoints_[0].y, drawnPoints_[1].y);
        const Vec3 foot = camera_.placed({drawnPoints_[0].x, low}, middleOfSheet());
        const Vec3 half = fromSheet(*camera_.upright, Vec2{0.0}, usualWidth_m / 2.0);
        opening.from = Vec2(foot - half);
        opening.to = Vec2(foot + half);
        opening.sill_m = low;
        opening.head_m = high;
    } else {
        opening.from = drawnPoints_[0];
        opening.to = drawnPoints_[1];
        opening.sill_m = floorShown();
        opening.head_m = opening.sill_m + usualHeight_m;
    }
    setTool(Tool::select);
    session_.addThing(std::move(opening));
}

} // namespace stone
