// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/label_layer.h"

#include "app/theme/haloed.h"

#include <QPainter>

#include <algorithm>
#include <array>
#include <cmath>

namespace stone
{

namespace
{

constexpr int longest = 26; ///< characters

/// The beginning and the end say most: "Loose enamel sign on the shelter" and one by the stairs begin alike.
QString shortened(const QString& text)
{
    constexpr int ending = 11;
    return text.size() <= longest
               ? text
               : text.left(longest - ending - 1).trimmed() + QStringLiteral("…") + text.right(ending).trimmed();
}

/// Of two that are about as loud the order stays while one walks, or names would jump about.
double loudnessStep(double level_db)
{
    return std::round(std::max(level_db, -200.0) / 6.0);
}

} // namespace

bool LabelLayer::free(const QRectF& box, bool overKept) const
{
    // Side by side without a gap two names would read as one.
    constexpr double apart_px = 5.0;
    const QRectF wide = box.adjusted(-apart_px, 0.0, apart_px, 0.0);
    const auto meets = [&](const QRectF& other) { return other.intersects(wide); };
    return view_.contains(box) && std::none_of(written_.begin(), written_.end(), meets) &&
           (overKept || std::none_of(kept_.begin(), kept_.end(), meets));
}

bool LabelLayer::place(const Label& label, const QSizeF& size, QPointF& corner) const
{
    const double w = size.width();
    const double h = size.height();
    const double gap = label.radius + 4.0;
    const auto tryAt = [&](const QPointF& at, bool overKept) {
        const std::array<QPointF, 6> corners{{{at.x() + gap, at.y() - h / 2},
                                              {at.x() - w / 2, at.y() + gap - 2},
                                              {at.x() - gap - w, at.y() - h / 2},
                                              {at.x() - w / 2, at.y() - gap - h + 2},
                                              {at.x() + gap * 0.7, at.y() + gap * 0.4},
                                              {at.x() + gap * 0.7, at.y() - gap * 0.4 - h}}};
        const auto* found =
            std::find_if(corners.begin(), corners.end(), [&](const QPointF& c) { return free(QRectF(c, size), overKept); });
        if (found != corners.end()) {
            corner = *found;
        }
        return found != corners.end();
    };
    for (const bool overKept : {false, true}) {
        if (overKept && label.rank != Rank::selected) {
            return false;
        }
        if (tryAt(label.at, overKept) ||
            std::any_of(label.orAt.begin(), label.orAt.end(), [&](const QPointF& at) { return tryAt(at, overKept); })) {
            return true;
        }
    }
    return false;
}

void LabelLayer::paint(QPainter& painter)
{
    std::stable_sort(labels_.begin(), labels_.end(), [](const Label& a, const Label& b) {
        return a.rank != b.rank ? a.rank < b.rank : loudnessStep(a.level_db) > loudnessStep(b.level_db);
    });
    for (const Label& label : labels_) {
        const QString text = (label.rank <= Rank::pointed ? label.text : shortened(label.text)) + label.tail;
        const theme::LabelSize size = theme::sizeOfLabel(label.font, text);
        QPointF corner;
        if (place(label, size.size, corner)) {
            written_.emplace_back(corner, size.size);
            painter.setFont(label.font);
            theme::drawHaloed(painter, corner + QPointF(0, size.ascent), text, label.colour);
        }
    }
    labels_.clear();
}

} // namespace stone
