#include "app/plan/label_layer.h"

#include "app/theme/haloed.h"

#include <QPainter>

#include <algorithm>
#include <array>

namespace stone
{

bool LabelLayer::free(const QRectF& box) const
{
    return view_.contains(box) &&
           std::none_of(taken_.begin(), taken_.end(), [&](const QRectF& other) { return other.intersects(box); });
}

bool LabelLayer::add(QPainter& painter, const QString& text, const QFont& font, const QColor& colour, const QPointF& at,
                     double radius, bool must)
{
    const theme::LabelSize size = theme::sizeOfLabel(font, text);
    const double w = size.size.width();
    const double h = size.size.height();
    const double gap = radius + 4.0;
    const std::array<QPointF, 6> corners{{{at.x() + gap, at.y() - h / 2},
                                          {at.x() - w / 2, at.y() + gap - 2},
                                          {at.x() - gap - w, at.y() - h / 2},
                                          {at.x() - w / 2, at.y() - gap - h + 2},
                                          {at.x() + gap * 0.7, at.y() + gap * 0.4},
                                          {at.x() + gap * 0.7, at.y() - gap * 0.4 - h}}};
    const auto* corner =
        std::find_if(corners.begin(), corners.end(), [&](const QPointF& c) { return free(QRectF(c, QSizeF(w, h))); });
    if (corner == corners.end()) {
        if (!must) {
            return false;
        }
        corner = corners.begin();
    }
    taken_.push_back(QRectF(*corner, QSizeF(w, h)));
    painter.setFont(font);
    theme::drawHaloed(painter, *corner + QPointF(0, size.ascent), text, colour);
    return true;
}

} // namespace stone
