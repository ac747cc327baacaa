// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

namespace stone
{

/// A page of the bench, or a part of one: shows something of the document, and what of it is heard, and says what it wants of
/// the rest of the window.
class Page : public QWidget
{
    Q_OBJECT

public:
    using QWidget::QWidget;

    /// Whether what is selected is this page's. Pages that are only shown when they are asked for never are.
    virtual bool isOfSelection() const { return false; }
    /// Shows the document as it is now.
    virtual void refresh() = 0;
    /// Shows only what moves while one walks and listens.
    virtual void follow() {}

signals:
    /// Back to what is selected.
    void backWanted();
    /// The outline, line or stops of what is shown are to be drawn on the Plan.
    void drawWanted();
    /// Its shape is to be put round a part of the level that is clicked there.
    void fitWanted();
    /// What a place answers is to be looked at.
    void decayWanted();
    /// The walk is to be run to its goal.
    void runWanted(bool blind);
    /// Two rigs are to be compared.
    void compareWanted();
    /// A side of what is shown is looked at; -1: none.
    void sideChosen(int side);
    /// Another level's geometry is to be brought in.
    void levelWanted();
    /// A Roamer's round is looked at ahead of time; below 0: no more.
    void previewed(double time_s);
};

} // namespace stone
