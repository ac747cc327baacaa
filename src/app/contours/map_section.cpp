// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/contours/map_section.h"

#include "app/theme/theme.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

namespace stone
{

MapSection::MapSection(QWidget* parent) : QWidget(parent)
{
    setObjectName("mapSection");
    setFixedHeight(110);
    setToolTip(tr("Along the line that was measured, from its beginning on the left to its end"));
}

void MapSection::show(std::vector<double> numbers, double length_m, double step)
{
    numbers_ = std::move(numbers);
    length_m_ = length_m;
    step_ = step;
    QStringList said;
    for (std::size_t i = 0; i < numbers_.size(); i += std::max<std::size_t>(numbers_.size() / 4, 1)) {
        said << (std::isfinite(numbers_[i]) ? theme::signedNumber(numbers_[i], 1) : tr("nothing"));
    }
    setAccessibleName(tr("Along the line: %1").arg(said.join(QStringLiteral(", "))));
    update();
}

void MapSection::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    double low = std::numeric_limits<double>::infinity();
    double high = -low;
    for (const double number : numbers_) {
        if (std::isfinite(number)) {
            low = std::min(low, number);
            high = std::max(high, number);
        }
    }
    painter.setFont(theme::number(7.5));
    if (high < low || numbers_.size() < 2) {
        painter.setPen(theme::soft);
        painter.drawText(rect(), Qt::AlignCenter, tr("nothing along this line"));
        return;
    }
    low = std::floor(std::max(low, high - 60.0) / step_) * step_;
    high = std::max(std::ceil(high / step_) * step_, low + step_);
    const QRectF frame(34, 6, width() - 40, height() - 24);
    const auto place = [&](double share, double number) {
        return QPointF(frame.left() + share * frame.width(), frame.bottom() - (number - low) / (high - low) * frame.height());
    };
    // No more rules than can be read.
    const double every = step_ * std::max(std::ceil((high - low) / step_ / 5.0), 1.0);
    for (double level = low; level <= high + 1e-9; level += every) {
        painter.setPen(QPen(theme::line, 1));
        painter.drawLine(place(0.0, level), place(1.0, level));
        painter.setPen(theme::soft);
        painter.drawText(QRectF(0, place(0.0, level).y() - 7, frame.left() - 4, 14), Qt::AlignRight | Qt::AlignVCenter,
                         theme::signedNumber(level, 0));
    }
    painter.setPen(QPen(theme::umber, 1.6));
    QPolygonF run;
    for (std::size_t i = 0; i <= numbers_.size(); ++i) {
        if (i < numbers_.size() && std::isfinite(numbers_[i])) {
            run << place(static_cast<double>(i) / static_cast<double>(numbers_.size() - 1), std::max(numbers_[i], low));
        } else {
            painter.drawPolyline(run);
            run.clear();
        }
    }
    painter.setPen(theme::soft);
    painter.drawText(QRectF(frame.left(), frame.bottom() + 2, frame.width(), 14), Qt::AlignLeft, QStringLiteral("0"));
    painter.drawText(QRectF(frame.left(), frame.bottom() + 2, frame.width(), 14), Qt::AlignRight, theme::metres(length_m_));
}

} // namespace stone
