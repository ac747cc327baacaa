// SPDX-License-Identifier: GPL-3.0-or-later
#include "game/level_sheet.h"

#include "app/theme/haloed.h"
#include "app/theme/theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <cmath>

namespace stone::game
{

namespace
{

/// Pixels for a metre.
constexpr double scale = 18.0;
constexpr double eyes_m = 1.5;
/// The walls are cut anew where the character has come so much higher or lower.
constexpr double another_m = 0.5;
constexpr double doorReach_px = 16.0;

Vec3 middleOf(const Opening& door)
{
    return {(door.from.x + door.to.x) / 2.0, (door.from.y + door.to.y) / 2.0, (door.sill_m + door.head_m) / 2.0};
}

} // namespace

LevelSheet::LevelSheet(QWidget* parent) : QWidget(parent)
{
    setMinimumSize(320, 300);
    setObjectName("levelSheet");
    setAccessibleName(tr("The level from above"));
    setToolTip(tr("A door opens and shuts when it is clicked"));
}

void LevelSheet::setLevel(const Level& level, std::shared_ptr<const PlanCutter> cutter)
{
    level_ = &level;
    cutter_ = std::move(cutter);
    cut_ = {};
    cut_.height_m = std::numeric_limits<double>::infinity();
    update();
}

void LevelSheet::show(const Pose& feet, const std::map<OpeningId, double>& doors, const std::vector<Thing>& things)
{
    feet_ = feet;
    doors_ = doors;
    things_ = things;
    if (cutter_ && !(std::abs(cut_.height_m - (feet.at.z + eyes_m)) < another_m)) {
        cut_ = cutter_->at(feet.at.z + eyes_m);
    }
    update();
}

QPointF LevelSheet::onSheet(const Vec3& at) const
{
    return QPointF(width() / 2.0, height() / 2.0) + QPointF(at.x - feet_.at.x, feet_.at.y - at.y) * scale;
}

double LevelSheet::share(const Opening& door) const
{
    const auto known = doors_.find(door.id);
    return known != doors_.end() ? known->second : door.open;
}

void LevelSheet::paintEvent(QPaintEvent* /*event*/)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme::paper);
    if (level_ == nullptr) {
        return;
    }
    QPainterPath walls;
    walls.setFillRule(Qt::WindingFill);
    for (const Outline& outline : cut_.outlines) {
        QPolygonF points;
        for (const Vec2& point : outline.points) {
            points << onSheet({point.x, point.y, 0.0});
        }
        walls.addPolygon(points);
        if (outline.closed) {
            walls.closeSubpath();
        }
    }
    painter.fillPath(walls, theme::edge);
    painter.strokePath(walls, QPen(theme::ink, 1.2));

    for (const auto& door : level_->openings) {
        const QPointF at = onSheet(middleOf(*door));
        if (!rect().contains(at.toPoint()) || std::abs(middleOf(*door).z - feet_.at.z - eyes_m) > 2.0 * eyes_m) {
            continue;
        }
        const double open = share(*door);
        painter.setPen(QPen(open > 0.5 ? theme::verdigris : theme::cinnabar, 3.0));
        painter.setBrush(theme::paper);
        painter.drawEllipse(at, 6.0, 6.0);
        painter.setFont(theme::text(8));
        theme::drawHaloed(painter, at + QPointF(10, 4),
                          tr("%1, %2 %").arg(QString::fromStdString(door->name)).arg(qRound(open * 100.0)), theme::ink);
    }
    for (const Thing& thing : things_) {
        const QPointF at = onSheet(thing.pose.at);
        painter.setPen(QPen(theme::malachite, 2.0));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(at - QPointF(7, 7), QSizeF(14, 14)));
        painter.setFont(theme::text(8));
        theme::drawHaloed(painter, at + QPointF(11, 4), thing.name, theme::ink);
    }

    painter.translate(onSheet(feet_.at));
    painter.rotate(feet_.heading_deg);
    painter.setPen(QPen(theme::paper, 1.5));
    painter.setBrush(theme::ink);
    painter.drawPolygon(QPolygonF({{0, -13}, {8, 9}, {0, 4}, {-8, 9}}));
}

void LevelSheet::mousePressEvent(QMouseEvent* event)
{
    if (level_ == nullptr) {
        return;
    }
    const Opening* nearest = nullptr;
    double reach = doorReach_px;
    for (const auto& door : level_->openings) {
        const QPointF way = onSheet(middleOf(*door)) - event->position();
        if (std::hypot(way.x(), way.y()) <= reach) {
            reach = std::hypot(way.x(), way.y());
            nearest = door.get();
        }
    }
    if (nearest != nullptr) {
        emit doorClicked(nearest->id);
    }
}

} // namespace stone::game
