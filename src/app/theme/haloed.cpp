// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/theme/haloed.h"

#include "app/theme/theme.h"

#include <QCache>
#include <QFontMetrics>
#include <QPainter>
#include <QPainterPath>
#include <QPixmap>

#include <algorithm>
#include <cmath>
#include <utility>
#include <vector>

namespace stone::theme
{

namespace
{

/// Round a piece of text in a picture of it, for its halo.
constexpr int haloMargin = 4;
/// So many pieces are kept; a piece takes some 5 kB.
constexpr int keptPieces = 2'000;

struct PieceKey {
    QString text;
    QFont font;
    bool operator==(const PieceKey&) const = default;
};

std::size_t qHash(const PieceKey& key, std::size_t seed = 0)
{
    return qHashMulti(seed, key.text, key.font);
}

/// A piece of text: its size and, once it was drawn, its pictures.
struct Piece {
    int width = 0;
    int height = 0;
    int ascent = 0;
    double ratio = 0.0; ///< of the device its pictures are made for
    QPixmap halo;
    std::vector<std::pair<QRgb, QPixmap>> inks; ///< by colour
};

Piece& pieceOf(const QString& text, const QFont& font)
{
    static QCache<PieceKey, Piece> kept(keptPieces);
    const PieceKey key{text, font};
    Piece* piece = kept.object(key);
    if (piece == nullptr) {
        const QFontMetrics metrics(font);
        piece = new Piece;
        piece->width = metrics.horizontalAdvance(text);
        piece->height = metrics.height();
        piece->ascent = metrics.ascent();
        kept.insert(key, piece);
    }
    return *piece;
}

/// A label in pieces: each digit by itself, so that a number that runs needs no new picture, and all between digits whole.
QStringList inPieces(const QString& label)
{
    QStringList pieces;
    bool joins = false;
    for (const QChar letter : label) {
        const bool digit = letter >= u'0' && letter <= u'9';
        if (joins && !digit) {
            pieces.back() += letter;
        } else {
            pieces += letter;
        }
        joins = !digit;
    }
    return pieces;
}

template <typename Draw> QPixmap pictureOf(const Piece& piece, const QFont& font, Draw&& draw)
{
    QPixmap picture(QSize(piece.width + 2 * haloMargin, piece.height + 2 * haloMargin) * piece.ratio);
    picture.setDevicePixelRatio(piece.ratio);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(font);
    draw(painter, QPointF(haloMargin, haloMargin + piece.ascent));
    return picture;
}

const QPixmap& haloOf(Piece& piece, const QString& text, const QFont& font)
{
    if (piece.halo.isNull()) {
        piece.halo = pictureOf(piece, font, [&](QPainter& painter, const QPointF& start) {
            QPainterPath path;
            path.addText(start, font, text);
            painter.strokePath(path, QPen(paper, 4.0, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        });
    }
    return piece.halo;
}

const QPixmap& inkOf(Piece& piece, const QString& text, const QFont& font, const QColor& colour)
{
    const auto known =
        std::find_if(piece.inks.begin(), piece.inks.end(), [&](const auto& ink) { return ink.first == colour.rgba(); });
    if (known != piece.inks.end()) {
        return known->second;
    }
    piece.inks.emplace_back(colour.rgba(), pictureOf(piece, font, [&](QPainter& painter, const QPointF& start) {
                                painter.setPen(colour);
                                painter.drawText(start, text);
                            }));
    return piece.inks.back().second;
}

} // namespace

LabelSize sizeOfLabel(const QFont& font, const QString& label)
{
    LabelSize size;
    for (const QString& text : inPieces(label)) {
        const Piece& piece = pieceOf(text, font);
        size.size = QSizeF(size.size.width() + piece.width, piece.height);
        size.ascent = piece.ascent;
    }
    return size;
}

void drawHaloed(QPainter& painter, const QPointF& baseline, const QString& label, const QColor& colour)
{
    const QFont& font = painter.font();
    const double ratio = painter.device()->devicePixelRatioF();
    const QStringList pieces = inPieces(label);
    // All halos lie below all letters.
    for (const bool halo : {true, false}) {
        QPointF at(std::round(baseline.x()) - haloMargin, std::round(baseline.y()) - haloMargin);
        for (const QString& text : pieces) {
            Piece& piece = pieceOf(text, font);
            if (piece.ratio != ratio) {
                piece.ratio = ratio;
                piece.halo = {};
                piece.inks.clear();
            }
            painter.drawPixmap(at - QPointF(0, piece.ascent),
                               halo ? haloOf(piece, text, font) : inkOf(piece, text, font, colour));
            at.rx() += piece.width;
        }
    }
}

} // namespace stone::theme
