// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QColor>
#include <QFont>
#include <QPointF>
#include <QSizeF>
#include <QString>

class QPainter;

/// Names and numbers that are written over drawings. Their pieces are shaped, outlined and drawn once and kept, as is what room
/// they take: the window's thread writes some fifty of them with each picture of the Plan. The window's thread only.
namespace stone::theme
{

/// What room a label takes, in pixels, and how far below its upper edge the baseline lies.
struct LabelSize {
    QSizeF size;
    double ascent = 0.0;
};
LabelSize sizeOfLabel(const QFont& font, const QString& label);

/// Text with a halo in the paper's colour, so that it stays readable across lines; in the painter's font.
void drawHaloed(QPainter& painter, const QPointF& baseline, const QString& label, const QColor& colour);

} // namespace stone::theme
