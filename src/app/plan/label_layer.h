// SPDX-License-Identifier: GPL-3.0-or-later
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

/// Writes names beside things so that none covers another. Of two that want the same room the more important one gets it, and
/// the other goes to another side of its thing or is left out.
class LabelLayer
{
public:
    /// Whose name is written first.
    enum class Rank {
        selected, ///< written also where nothing is to be written, but never over another name
        pointed,  ///< under the pointer
        heard,
        space, ///< zones and rooms
        place,
        silent
    };

    struct Label {
        QString text; ///< shortened in the middle where it is long, unless it is selected or pointed at
        QFont font;
        QColor colour;
        QPointF at;          ///< of the thing, pixels
        double radius = 0.0; ///< and how far it reaches
        Rank rank = Rank::heard;
        double level_db = 0.0;          ///< of two of a rank the louder first
        QString tail = {};              ///< behind the text, never shortened
        std::vector<QPointF> orAt = {}; ///< other places for it, in this order
    };

    explicit LabelLayer(const QRectF& view) : view_(view) {}

    /// Nothing may be written here.
    void keepFree(const QRectF& box) { kept_.push_back(box); }

    void add(Label label) { labels_.push_back(std::move(label)); }

    /// Forgets all that matters less than this.
    void keepOnly(Rank least)
    {
        std::erase_if(labels_, [least](const Label& label) { return label.rank > least; });
    }

    /// Finds room for all that was added and writes it.
    void paint(QPainter& painter);

    /// Where something was written.
    const std::vector<QRectF>& written() const { return written_; }

private:
    /// Where a label of a size goes; nothing: there is no room.
    bool place(const Label& label, const QSizeF& size, QPointF& corner) const;
    bool free(const QRectF& box, bool overKept) const;

    QRectF view_;
    std::vector<QRectF> kept_;
    std::vector<QRectF> written_;
    std::vector<Label> labels_;
};

} // namespace stone
