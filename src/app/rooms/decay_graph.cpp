// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/rooms/decay_graph.h"

#include "acoustics/air.h"
#include "app/theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double least_s = 0.1;
constexpr double most_s = 12.0;
constexpr double grab_px = 14.0;

double rounded(double seconds)
{
    const double step = seconds < 1.0 ? 0.01 : 0.05;
    return std::clamp(std::round(seconds / step) * step, least_s, most_s);
}

} // namespace

DecayGraph::DecayGraph(QWidget* parent) : QWidget(parent)
{
    setObjectName("decayGraph");
    setAccessibleName(tr("RT60 by octave band"));
    setToolTip(tr("How long the room rings in each octave band. Drag a point, or choose one with Left and Right and move it "
                  "with Up and Down"));
    setFixedHeight(150);
    setFocusPolicy(Qt::StrongFocus);
}

void DecayGraph::present(const BandValues& rt60_s, const std::optional<BandValues>& suggested_s)
{
    if (rt60_s != rt60_s_ || suggested_s != suggested_s_) {
        rt60_s_ = rt60_s;
        suggested_s_ = suggested_s;
        update();
    }
}

QRectF DecayGraph::area() const
{
    return QRectF(rect()).adjusted(34, 18, -6, -18);
}

double DecayGraph::yOf(double rt60_s) const
{
    const double share = std::log(std::clamp(rt60_s, least_s, most_s) / least_s) / std::log(most_s / least_s);
    return area().bottom() - share * area().height();
}

double DecayGraph::valueAt(double y) const
{
    const double share = std::clamp((area().bottom() - y) / area().height(), 0.0, 1.0);
    return least_s * std::pow(most_s / least_s, share);
}

QPointF DecayGraph::placeOf(std::size_t band) const
{
    const double column = area().width() / static_cast<double>(rt60_s_.size());
    return {area().left() + column * (static_cast<double>(band) + 0.5), yOf(rt60_s_[band])};
}

void DecayGraph::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF inner = area();
    painter.fillRect(inner, theme::field);
    painter.setFont(theme::number(7.5));
    for (const double seconds : {0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0}) {
        const double y = yOf(seconds);
        painter.setPen(QPen(theme::line, 1));
        painter.drawLine(QPointF(inner.left(), y), QPointF(inner.right(), y));
        painter.setPen(theme::soft);
        painter.drawText(QRectF(0, y - 7, inner.left() - 4, 14), Qt::AlignRight | Qt::AlignVCenter,
                         tr("%1 s").arg(seconds, 0, 'g', 2));
    }
    const auto line = [&](const BandValues& values) {
        QPolygonF points;
        for (std::size_t band = 0; band < values.size(); ++band) {
            points << QPointF(placeOf(band).x(), yOf(values[band]));
        }
        return points;
    };
    if (suggested_s_) {
        painter.setPen(QPen(theme::lapis, 1.4, Qt::DashLine));
        painter.drawPolyline(line(*suggested_s_));
    }
    painter.setPen(QPen(theme::ochre, 2));
    painter.drawPolyline(line(rt60_s_));
    for (std::size_t band = 0; band < rt60_s_.size(); ++band) {
        const QPointF at = placeOf(band);
        painter.setPen(QPen(band == band_ && hasFocus() ? theme::verdigris : theme::ochre, 2));
        painter.setBrush(theme::field);
        painter.drawEllipse(at, 4.5, 4.5);
        painter.setPen(theme::ink);
        const double above = at.y() - 20.0 < inner.top() - 8.0 ? 8.0 : -20.0;
        painter.drawText(QRectF(at.x() - 24, at.y() + above, 48, 13), Qt::AlignCenter,
                         QString::number(rt60_s_[band], 'f', rt60_s_[band] < 10.0 ? 2 : 1));
        painter.setPen(theme::soft);
        const double hz = octaveBands_hz[band];
        painter.drawText(QRectF(at.x() - 24, inner.bottom() + 3, 48, 13), Qt::AlignCenter,
                         hz < 1000.0 ? QString::number(hz) : tr("%1k").arg(hz / 1000.0));
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme::verdigris, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(inner);
    }
}

void DecayGraph::mousePressEvent(QMouseEvent* event)
{
    for (std::size_t band = 0; band < rt60_s_.size(); ++band) {
        const QPointF off = event->position() - placeOf(band);
        if (std::abs(off.x()) < grab_px && std::abs(off.y()) < grab_px) {
            band_ = band;
            dragging_ = true;
        }
    }
    update();
}

void DecayGraph::mouseMoveEvent(QMouseEvent* event)
{
    if (dragging_) {
        emit edited(band_, rounded(valueAt(event->position().y())));
    }
}

void DecayGraph::mouseReleaseEvent(QMouseEvent*)
{
    dragging_ = false;
    emit editEnded();
}

void DecayGraph::nudge(double factor)
{
    const double now = rt60_s_[band_];
    const double next = rounded(now * factor);
    emit edited(band_, next != now ? next : rounded(now + (factor > 1.0 ? 0.05 : -0.05)));
}

void DecayGraph::keyPressEvent(QKeyEvent* event)
{
    switch (event->key()) {
    case Qt::Key_Left: band_ = band_ > 0 ? band_ - 1 : band_; break;
    case Qt::Key_Right: band_ = std::min(band_ + 1, rt60_s_.size() - 1); break;
    case Qt::Key_Up: nudge(1.05); break;
    case Qt::Key_Down: nudge(1.0 / 1.05); break;
    default: QWidget::keyPressEvent(event); return;
    }
    update();
}

} // namespace stone
