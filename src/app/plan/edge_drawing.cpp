// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/edge_drawing.h"

#include "app/theme/theme.h"

#include <QLineF>

namespace stone
{

namespace
{

constexpr double leastLength_px = 3.0;

/// Short strokes across a line, on the side away from the floor: as a surveyor draws a bank, down the slope.
void drawTicks(QPainter& painter, const QPolygonF& line, double every_px, double length_px)
{
    double next_px = every_px / 2.0;
    for (qsizetype i = 1; i < line.size(); ++i) {
        const QLineF piece(line[i - 1], line[i]);
        const double length = piece.length();
        if (length <= 0.0) {
            continue;
        }
        const QPointF way = (line[i] - line[i - 1]) / length;
        const QPointF out(-way.y(), way.x()); // north is up on the screen: what is left of the way there is above it here
        for (; next_px < length; next_px += every_px) {
            const QPointF at = line[i - 1] + next_px * way;
            painter.drawLine(QLineF(at, at + length_px * out));
        }
        next_px -= length;
    }
}

double lengthOf(const QPolygonF& line)
{
    double length = 0.0;
    for (qsizetype i = 1; i < line.size(); ++i) {
        length += QLineF(line[i - 1], line[i]).length();
    }
    return length;
}

} // namespace

void drawEdge(QPainter& painter, EdgeKind kind, const QPolygonF& line)
{
    if (lengthOf(line) < leastLength_px) {
        return;
    }
    const auto pen = [&](const QColor& colour, double width, Qt::PenStyle style) {
        painter.setPen(QPen(colour, width, style, Qt::FlatCap));
    };
    painter.setBrush(Qt::NoBrush);
    switch (kind) {
    case EdgeKind::drop:
        pen(theme::cinnabar, 1.6, Qt::SolidLine);
        painter.drawPolyline(line);
        pen(theme::cinnabar, 1.0, Qt::SolidLine);
        drawTicks(painter, line, 7.0, 5.0);
        break;
    case EdgeKind::wall:
        pen(theme::soft, 1.8, Qt::SolidLine);
        painter.drawPolyline(line);
        break;
    case EdgeKind::kerb:
        pen(theme::umber, 1.2, Qt::DotLine);
        painter.drawPolyline(line);
        break;
    case EdgeKind::step:
        pen(theme::umber, 1.0, Qt::SolidLine);
        painter.drawPolyline(line);
        break;
    case EdgeKind::water:
        pen(theme::lapis, 1.8, Qt::DashLine);
        painter.drawPolyline(line);
        pen(theme::lapis, 1.0, Qt::SolidLine);
        drawTicks(painter, line, 14.0, 3.0);
        break;
    }
}

} // namespace stone
