// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/contours/contour_layer.h"
#include "app/contours/map_maker.h"
#include "app/contours/map_section.h"
#include "app/plan/plan_view.h"
#include "app/widgets/name_chooser.h"

#include <QCheckBox>
#include <QFrame>
#include <QLabel>
#include <QToolButton>

namespace stone
{

/// Lies over the Plan while it has contours: what they show and of whom, how far they are, what is under the pointer, and the
/// section along a line that was measured.
class ContoursPanel : public QFrame
{
    Q_OBJECT

public:
    /// The Plan is its parent and what it draws on: it ends with it.
    ContoursPanel(Session& session, Playback& playback, PlanView& plan);

    MapMaker& maker() { return maker_; }
    const ContourLayer& layer() const { return layer_; }
    /// With contours, or without.
    void setOn(bool on);
    /// What is shown next, in the order of the list.
    void showNext();

signals:
    void turned(bool on);

private:
    void choose();
    void refill();
    void redraw();
    void describe();
    void say(const std::optional<Vec2>& place);
    void cutSection();
    void fit();
    QString ofNumber(double number) const;

    Session& session_;
    Playback& playback_;
    PlanView& plan_;
    MapMaker maker_;
    ContourLayer layer_;
    NameChooser* shows_;
    NameChooser* of_;
    QComboBox* step_;
    QCheckBox* atMoment_;
    QToolButton* keep_;
    QToolButton* beside_;
    QLabel* what_;
    QLabel* how_;
    QWidget* foldable_; ///< all but the head and the value under the pointer
    QLabel* here_;
    MapSection* section_;
    std::optional<Vec2> pointer_;
};

} // namespace stone
