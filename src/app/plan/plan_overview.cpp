// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/theme/haloed.h"
#include "app/theme/theme.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

/// How far things are on the Plan: a length that was measured, and where in the level one looks while little of it is seen.
namespace stone
{

namespace
{

constexpr QSizeF overviewMost(150, 104);
constexpr double overviewLeft_px = 12.0;
constexpr double overScale_px = 50.0; ///< the scale lies below it

} // namespace

void PlanView::paintMeasured(QPainter& painter) const
{
    if (!measured_) {
        return;
    }
    const auto [from, to] = *measured_;
    const QPointF a = camera_.toScreen(from);
    const QPointF b = camera_.toScreen(to);
    const QPointF along = b - a;
    const double length_px = std::hypot(along.x(), along.y());
    painter.setPen(QPen(theme::ink, 1.4));
    painter.drawLine(a, b);
    if (length_px > 1.0) {
        const QPointF across = QPointF(-along.y(), along.x()) / length_px * 5.0;
        painter.drawLine(a - across, a + across);
        painter.drawLine(b - across, b + across);
    }
    const Vec2 way = to - from;
    const double length_m = glm::length(way);
    const double unit = session_.level().metresPerUnit;
    QString text = QString("%1 m").arg(length_m, 0, 'f', 2);
    if (unit != 1.0) {
        text += tr(" · %1 units").arg(length_m / unit, 0, 'f', 1);
    }
    text += QStringLiteral(" · %1°").arg(std::lround(std::fmod(degrees(std::atan2(way.x, way.y)) + 360.0, 360.0)) % 360);
    painter.setFont(theme::text(9, QFont::Bold));
    theme::drawHaloed(painter, (a + b) / 2.0 + QPointF(8, -8), text, theme::ink);
}

/// Empty while most of the level is seen.
QRectF PlanView::overviewRect() const
{
    const auto [low, high] = levelBounds();
    const Vec2 size = high - low;
    const Vec2 seen{camera_.view.width() / camera_.pixelsPerMetre, camera_.view.height() / camera_.pixelsPerMetre};
    constexpr double most = 0.5; // of the level in view, in either direction
    constexpr double leastHeight_px = 420.0;
    if ((seen.x > most * size.x && seen.y > most * size.y) || camera_.view.height() < leastHeight_px) {
        return {};
    }
    const double scale = std::min(overviewMost.width() / size.x, overviewMost.height() / size.y);
    const QSizeF box(size.x * scale, size.y * scale);
    constexpr double least_px = 6.0;
    if (std::min(box.width(), box.height()) < least_px) {
        return {}; // of a level that is all length nothing could be seen in it
    }
    return {QPointF(overviewLeft_px, camera_.view.height() - overScale_px - box.height()), box};
}

void PlanView::paintOverview(QPainter& painter)
{
    const QRectF box = overviewRect();
    if (box.isEmpty()) {
        return;
    }
    const auto [low, high] = levelBounds();
    PlanCamera small;
    small.view = box.size();
    small.upright = camera_.upright;
    small.fit(low, high, 0.0);
    const double ratio = devicePixelRatioF();
    if (overviewOf_ != sheet_.version() || overview_.size() != (box.size() * ratio).toSize()) {
        overviewOf_ = sheet_.version();
        overview_ = QPixmap((box.size() * ratio).toSize());
        overview_.setDevicePixelRatio(ratio);
        overview_.fill(theme::paper);
        QPainter onPicture(&overview_);
        onPicture.setRenderHint(QPainter::Antialiasing);
        drawCut(onPicture, small, sheet_.cut());
    }
    painter.drawPixmap(box.topLeft(), overview_);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::soft, 1));
    painter.drawRect(box);
    const QPointF a = small.toScreen(camera_.toLevel({0.0, 0.0}));
    const QPointF b = small.toScreen(camera_.toLevel({camera_.view.width(), camera_.view.height()}));
    painter.setPen(QPen(theme::ink, 1.4));
    painter.drawRect(QRectF(a, b).translated(box.topLeft()).intersected(box));
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ink);
    const QPointF ears = small.toScreen(playback_.feet().at) + box.topLeft();
    if (box.contains(ears)) {
        painter.drawEllipse(ears, 2.5, 2.5);
    }
}

void PlanView::centreByOverview(const QPointF& at)
{
    const QRectF box = overviewRect();
    if (box.isEmpty()) {
        return;
    }
    const auto [low, high] = levelBounds();
    const double x = std::clamp((at.x() - box.left()) / box.width(), 0.0, 1.0);
    const double y = std::clamp((at.y() - box.top()) / box.height(), 0.0, 1.0);
    camera_.centre = {low.x + x * (high.x - low.x), high.y - y * (high.y - low.y)};
    update();
}

} // namespace stone
