#pragma once

#include <QColor>
#include <QFont>
#include <QPointF>
#include <QRectF>
#include <QString>

#include <vector>

class QPainter;

namespace stone
{

/// Places names beside things so that none covers another: the first asked for is placed first, beside, above or below
/// its thing, and one that finds no room is left out.
class LabelLayer
{
public:
    explicit LabelLayer(const QRectF& view) : view_(view) {}

    /// Nothing may be written here.
    void keepFree(const QRectF& box) { taken_.push_back(box); }

    /// A name for a thing at a point with a radius in pixels. `must`: written beside it even where there is no room.
    /// Returns whether it was written.
    bool add(QPainter& painter, const QString& text, const QFont& font, const QColor& colour, const QPointF& at, double radius,
             bool must = false);

private:
    bool free(const QRectF& box) const;

    QRectF view_;
    std::vector<QRectF> taken_;
};

} // namespace stone
