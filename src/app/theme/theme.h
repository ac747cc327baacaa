#pragma once

#include "project/document.h"

#include <QColor>
#include <QFont>
#include <QPainter>
#include <QString>

class QApplication;

/// How Stone Echo looks: a surveyor's sheet. Paper ground, ink, mineral colours for kinds of sound.
namespace stone::theme
{

inline const QColor paper{"#FBF8EF"}; ///< the sheet
inline const QColor panel{"#FAF8F2"}; ///< beside the sheet
inline const QColor shade{"#F1E9D9"}; ///< what is selected
inline const QColor ink{"#262420"};   ///< walls, text
inline const QColor soft{"#6B665C"};  ///< second lines
inline const QColor faint{"#A39C8D"}; ///< what is not heard
inline const QColor line{"#DDD6C6"};  ///< rules and grids
inline const QColor grid{"#EDE6D4"};
inline const QColor ochre{"#B3761B"};     ///< Points
inline const QColor verdigris{"#2B7D6D"}; ///< beds, and what can be pressed
inline const QColor lapis{"#345590"};     ///< areas and zones
inline const QColor mallow{"#74497F"};    ///< sprinkles
inline const QColor malachite{"#5B7A2A"}; ///< Roamers
inline const QColor umber{"#7B5B45"};     ///< steps
inline const QColor cinnabar{"#AE3A2C"};  ///< errors
inline const QColor sulphur{"#E2B33C"};   ///< warnings

/// Fonts, palette and style sheet for the whole application.
void apply(QApplication& app);

/// Fonts that are asked for again are the same: Qt finds the letters' shapes once for each.
QFont text(double points, QFont::Weight weight = QFont::Normal);
/// Fixed-width, for numbers.
QFont number(double points, QFont::Weight weight = QFont::Normal);

/// The colour of a kind of sound.
QColor colourOf(EmitterKind kind);

/// Draws the sign of a kind: a diamond for a Point, three waves for a bed, a hatched square for an Area, drops for a
/// sprinkle, an arrow on its way for a Roamer, two soles for steps. `hollow` where it is not on this storey.
void drawMark(QPainter& painter, EmitterKind kind, const QPointF& centre, double size, const QColor& colour,
              bool hollow = false);

// Numbers as people read them, with a true minus.
QString signedNumber(double value, int decimals);
QString decibels(double db);   ///< "−23.1", "silent"
QString metres(double m);      ///< "11.7 m"
QString clock(double seconds); ///< "1:02.4"

} // namespace stone::theme
