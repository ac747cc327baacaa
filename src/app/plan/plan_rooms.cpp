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

Vec2 drawnAt(const Vec2& p)
{
    return {toCentimetre(p.x), toCentimetre(p.y)};
}

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
        const QPointF a = camera_.toScreen(Vec3{opening.from, 0.0});
        const QPointF b = camera_.toScreen(Vec3{opening.to, 0.0});
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
        painter.drawLine(camera_.toScreen(Vec3{drawnPoints_.front(), 0.0}), lastAt_);
    }
}

QPointF PlanView::placeOfOpeningEnd(int end) const
{
    const auto* opening = session_.selected<Opening>();
    return opening != nullptr ? camera_.toScreen(Vec3{end == 0 ? opening->from : opening->to, 0.0}) : QPointF();
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
        if (onStorey(opening->sill_m) && distanceToLine(camera_.toScreen(Vec3{opening->from, 0.0}),
                                                        camera_.toScreen(Vec3{opening->to, 0.0}), at) < grab_px) {
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
    const Vec2 to = drawnAt(snapped(camera_.toLevel(at)));
    const auto* opening = session_.selected<Opening>();
    if (opening != nullptr && to != (openingEnd_ == 0 ? opening->to : opening->from)) {
        session_.editThing<Opening>(openingEnd_ == 0 ? tr("begins elsewhere") : tr("ends elsewhere"),
                                    QString("opening drag %1").arg(gestures_),
                                    [&](Opening& o) { (openingEnd_ == 0 ? o.from : o.to) = to; });
    }
}

void PlanView::addOpeningPoint(const QPointF& at)
{
    const Vec2 p = drawnAt(snapped(camera_.toLevel(at)));
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
    opening.from = drawnPoints_[0];
    opening.to = drawnPoints_[1];
    opening.sill_m = floorShown();
    opening.head_m = opening.sill_m + usualHeight_m;
    setTool(Tool::select);
    session_.addThing(std::move(opening));
}

} // namespace stone
