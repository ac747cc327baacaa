// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/crowd/voices_view.h"

#include "app/theme/theme.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double shown_s = 20.0;
constexpr int leastRows = 4;

} // namespace

VoicesView::VoicesView(Of of, const VoiceHistory& history, QWidget* parent) : QWidget(parent), of_(of), history_(history)
{
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName(tr("Copies over the last 20 seconds, and their limit"));
}

void VoicesView::showLimit(int atOnce)
{
    atOnce_ = atOnce;
    setAccessibleDescription(atOnce > 0 ? tr("limit %1 at once").arg(atOnce) : tr("no limit"));
    update();
}

int VoicesView::rowOf(const VoiceHistory::Span& span) const
{
    return of_ == Of::sound ? span.rows.sound : of_ == Of::family ? span.rows.family : span.rows.level;
}

std::vector<const VoiceHistory::Span*> VoicesView::shown() const
{
    std::vector<const VoiceHistory::Span*> all;
    for (const auto& [number, span] : history_.spans()) {
        const bool ours = of_ == Of::level || (of_ == Of::sound ? span.sound == sound_ : span.family == family_);
        if (ours && span.to_s >= history_.now_s() - shown_s) {
            all.push_back(&span);
        }
    }
    return all;
}

/// As many as sounded, and some room above the limit for those that did not.
int VoicesView::rows() const
{
    if (held_) {
        return *held_;
    }
    int most = std::max(atOnce_ + std::max(atOnce_ / 8, 2), leastRows); // room for what is said above the line
    for (const auto* span : shown()) {
        most = std::max(most, rowOf(*span) + 1 + (span->state == VoiceHistory::State::asleep ? atOnce_ : 0));
    }
    return most;
}

QRectF VoicesView::plot() const
{
    return QRectF(rect()).adjusted(26, 6, -8, -18);
}

double VoicesView::xOf(double time_s) const
{
    const QRectF area = plot();
    return area.right() - (history_.now_s() - time_s) / shown_s * area.width();
}

double VoicesView::yOf(double copies) const
{
    const QRectF area = plot();
    return area.bottom() - copies / rows() * area.height();
}

double VoicesView::limit_y() const
{
    return yOf(atOnce_ > 0 ? atOnce_ : rows());
}

int VoicesView::limitAt(double y) const
{
    const QRectF area = plot();
    const double copies = (area.bottom() - y) / area.height() * rows();
    return std::max(static_cast<int>(std::lround(copies)), of_ == Of::level ? 1 : 0);
}

void VoicesView::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF area = plot();
    painter.fillRect(area, theme::field);
    painter.setFont(theme::number(7.5));
    const int all = rows();
    const int every = all <= 8 ? 1 : all <= 20 ? 4 : std::max(8, (all / 64) * 8);
    for (int copies = 0; copies <= all; copies += every) {
        painter.setPen(QPen(theme::grid, 1));
        painter.drawLine(QPointF(area.left(), yOf(copies)), QPointF(area.right(), yOf(copies)));
        painter.setPen(theme::soft);
        painter.drawText(QRectF(0, yOf(copies) - 8, area.left() - 5, 16), Qt::AlignRight | Qt::AlignVCenter,
                         QString::number(copies));
    }
    constexpr double tick_s = 5.0;
    for (double ago = 0.0; ago <= shown_s; ago += tick_s) {
        const double x = area.right() - ago / shown_s * area.width();
        painter.setPen(QPen(theme::line, 1));
        painter.drawLine(QPointF(x, area.bottom()), QPointF(x, area.bottom() + 3));
        painter.setPen(theme::soft);
        const QString text = ago == 0.0 ? tr("now") : tr("−%1 s").arg(ago);
        painter.drawText(QRectF(x - 30, area.bottom() + 3, ago == 0.0 ? 34 : 60, 14),
                         ago == 0.0 ? Qt::AlignRight : Qt::AlignHCenter, text);
    }
    painter.setClipRect(area.adjusted(-1, -5, 1, 1));
    const double row_px = area.height() / all;
    for (const auto* span : shown()) {
        const double from = std::max(xOf(span->from_s), area.left());
        const double to = std::max(xOf(span->to_s), from + 2.0);
        const QColor colour = theme::colourOf(span->kind);
        switch (span->state) {
        case VoiceHistory::State::sounded: {
            const QRectF bar(from, yOf(rowOf(*span) + 1) + 1, to - from, std::max(row_px - 2.0, 1.5));
            painter.setPen(QPen(theme::seeThrough(colour, 0.0), 1));
            painter.setBrush(theme::seeThrough(colour, 0.45));
            painter.drawRoundedRect(bar, std::min(3.0, bar.height() / 2), std::min(3.0, bar.height() / 2));
            break;
        }
        case VoiceHistory::State::asleep: {
            const double y = yOf(atOnce_ + rowOf(*span) + 0.5);
            painter.setPen(QPen(colour, 1.4, Qt::DashLine));
            painter.drawLine(QPointF(from, y), QPointF(to, y));
            break;
        }
        case VoiceHistory::State::refused:
        case VoiceHistory::State::dropped: {
            const double y = atOnce_ > 0 ? yOf(atOnce_) - 8 : yOf(rowOf(*span) + 0.5);
            painter.setPen(QPen(theme::cinnabar, 1.6));
            painter.drawLine(QPointF(from - 3, y - 3), QPointF(from + 3, y + 3));
            // What never sounded is a cross, what was cut off a stroke with a foot.
            if (span->state == VoiceHistory::State::refused) {
                painter.drawLine(QPointF(from - 3, y + 3), QPointF(from + 3, y - 3));
            } else {
                painter.drawLine(QPointF(from + 3, y + 3), QPointF(from - 3, y + 3));
            }
            break;
        }
        }
    }
    painter.setClipping(false);
    if (atOnce_ > 0) {
        const double y = limit_y();
        painter.setPen(QPen(theme::ink, hasFocus() || held_ ? 2.2 : 1.4));
        painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
        painter.setBrush(theme::ink);
        painter.drawRect(QRectF(area.right() - 4, y - 3, 8, 6));
        painter.setFont(theme::text(8, QFont::Bold));
        painter.drawText(QRectF(area.left() + 4, y - 15, 160, 14), Qt::AlignLeft | Qt::AlignVCenter,
                         tr("%1 at once").arg(atOnce_));
    } else {
        painter.setPen(theme::soft);
        painter.setFont(theme::text(8));
        painter.drawText(area.adjusted(6, 2, -6, 0), Qt::AlignLeft | Qt::AlignTop, tr("no limit: pull it down from the top"));
    }
    if (shown().empty()) {
        painter.setPen(theme::soft);
        painter.setFont(theme::text(8));
        painter.drawText(area, Qt::AlignCenter, tr("Nothing of it has sounded in the last 20 s."));
    }
    painter.setPen(QPen(theme::edge, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(area);
}

const VoiceHistory::Span* VoicesView::under(const QPointF& at) const
{
    constexpr double near_px = 6.0;
    const VoiceHistory::Span* found = nullptr;
    for (const auto* span : shown()) {
        const bool mark = span->state == VoiceHistory::State::refused || span->state == VoiceHistory::State::dropped;
        if (mark) {
            const double y = atOnce_ > 0 ? yOf(atOnce_) - 8 : yOf(rowOf(*span) + 0.5);
            if (std::hypot(at.x() - xOf(span->from_s), at.y() - y) < near_px) {
                return span;
            }
            continue;
        }
        const double row = rowOf(*span) + (span->state == VoiceHistory::State::asleep ? atOnce_ : 0);
        if (at.x() >= xOf(span->from_s) - 1 && at.x() <= xOf(span->to_s) + 1 && at.y() <= yOf(row) && at.y() >= yOf(row + 1)) {
            found = span;
        }
    }
    return found;
}

bool VoicesView::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        if (const auto* span = under(help->pos())) {
            const QString time = theme::clock(span->from_s);
            const QString what = span->state == VoiceHistory::State::sounded   ? tr("%1, from %2")
                                 : span->state == VoiceHistory::State::asleep  ? tr("%1, asleep since %2: gave way %3")
                                 : span->state == VoiceHistory::State::refused ? tr("%1, refused at %2: gave way %3")
                                                                               : tr("%1, dropped at %2: gave way %3");
            QToolTip::showText(help->globalPos(),
                               span->why.isEmpty() ? what.arg(span->name, time) : what.arg(span->name, time, span->why), this);
        } else {
            QToolTip::hideText();
        }
        return true;
    }
    return QWidget::event(event);
}

void VoicesView::mousePressEvent(QMouseEvent* event)
{
    constexpr double grip_px = 8.0;
    if (event->button() == Qt::LeftButton && std::abs(event->position().y() - limit_y()) < grip_px) {
        held_ = rows();
        update();
    }
}

void VoicesView::mouseMoveEvent(QMouseEvent* event)
{
    constexpr double grip_px = 8.0;
    const bool near = std::abs(event->position().y() - limit_y()) < grip_px;
    setCursor(near || held_ ? Qt::SizeVerCursor : Qt::ArrowCursor);
    if (held_ && limitAt(event->position().y()) != atOnce_) {
        emit limitDragged(limitAt(event->position().y()), false);
    }
}

void VoicesView::mouseReleaseEvent(QMouseEvent* event)
{
    if (held_) {
        const int atOnce = limitAt(event->position().y());
        held_.reset();
        emit limitDragged(atOnce, true);
        update();
    }
}

void VoicesView::keyPressEvent(QKeyEvent* event)
{
    const int by = event->key() == Qt::Key_Up ? 1 : event->key() == Qt::Key_Down ? -1 : 0;
    if (by != 0) {
        emit limitDragged(std::max(atOnce_ + by, of_ == Of::level ? 1 : 0), true);
        return;
    }
    QWidget::keyPressEvent(event);
}

} // namespace stone
