// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/document.h"

#include <QColor>
#include <QFont>
#include <QPainter>
#include <QString>

#include <optional>

class QApplication;
class QPalette;

/// How Stone Echo looks: a surveyor's sheet. Paper ground, ink, mineral colours for kinds of sound.
namespace stone::theme
{

// Set once, by apply(): the window's thread alone reads them.
inline QColor paper{"#FBF8EF"}; ///< the sheet
inline QColor panel{"#FAF8F2"}; ///< beside the sheet
inline QColor field{"#FFFFFF"}; ///< where something is typed or drawn
inline QColor shade{"#F1E9D9"}; ///< what is selected
inline QColor ink{"#262420"};   ///< walls, text
inline QColor soft{"#6B665C"};  ///< second lines
inline QColor faint{"#A39C8D"}; ///< what is not heard
inline QColor line{"#DDD6C6"};  ///< rules and grids
inline QColor grid{"#EDE6D4"};
inline QColor edge{"#CFC6B2"};      ///< of floors, and walls of other storeys
inline QColor floor{"#EFE6D2"};     ///< as the eyes see it
inline QColor glass{"#CFE0DC"};     ///< likewise
inline QColor notice{"#FBEFD0"};    ///< behind a message
inline QColor ochre{"#B3761B"};     ///< Points
inline QColor verdigris{"#2B7D6D"}; ///< beds, and what can be pressed
inline QColor lapis{"#345590"};     ///< areas and zones
inline QColor mallow{"#74497F"};    ///< sprinkles
inline QColor malachite{"#5B7A2A"}; ///< Roamers
inline QColor umber{"#7B5B45"};     ///< steps
inline QColor rust{"#9C4F2E"};      ///< pulses
inline QColor cinnabar{"#AE3A2C"};  ///< errors
inline QColor sulphur{"#E2B33C"};   ///< warnings

/// On paper by day, on lamp-black by night, or with nothing between black and white but what must be told apart.
enum class Look { day, night, plain, plainNight };

/// The look that fits a desktop's colours: night where its windows are dark; plain where they leave nothing between.
Look lookOf(const QPalette& desktop);
/// What somebody chose instead, for the next start; nothing: that of the desktop.
std::optional<Look> chosenLook();
void chooseLook(std::optional<Look> look);

/// Fonts, colours, palette and style sheet for the whole application: the chosen look, else the desktop's.
void apply(QApplication& app);
/// The same in a look that is given.
void apply(QApplication& app, Look look);

/// The fields' colour as a style sheet says it, with a little of what lies under it showing through.
QString over();
/// A colour that lets so much of what lies under it through, 0 to 1.
QColor seeThrough(QColor colour, double through);

/// A tint of the ground for each material of floors, too faint to compete with what is drawn on it; for what lies lower than a
/// storey's floor too.
QColor floorTint(std::size_t material);
QColor sunkenTint();

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
