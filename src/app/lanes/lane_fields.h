// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lanes/lane_scale.h"
#include "app/widgets/number_field.h"

#include <QComboBox>
#include <QLabel>
#include <QStackedWidget>

namespace stone
{

/// A lane in numbers: its shape, and what can be typed of it. For a curve, the control point that is chosen.
class LaneFields : public QWidget
{
    Q_OBJECT

public:
    explicit LaneFields(QWidget* parent = nullptr);

    /// `point`: the chosen control point of a curve, -1 for none.
    void showLane(const Lane& lane, int point);

signals:
    void laneEdited(const Lane& lane, const QString& what, const QString& gesture);
    void gestureEnded();

private:
    QWidget* formulaPage();
    QWidget* anglesPage();
    QWidget* curvePage();
    void chooseShape(int index);
    void editFormula(const QString& what, const QString& gesture, const std::function<void(DistanceFormula&)>& change);

    Lane lane_;
    int point_ = -1;
    QComboBox* shape_;
    QStackedWidget* pages_;
    NumberField* reference_;
    NumberField* stays_;
    QLabel* staysLabel_;
    NumberField* end_;
    QLabel* endLabel_;
    NumberField* factor_;
    QLabel* formulaText_;
    NumberField* inner_;
    NumberField* outer_;
    NumberField* inside_;
    NumberField* behind_;
    NumberField* x_;
    NumberField* y_;
    QComboBox* segment_;
};

/// A formula as the curve that it draws, to begin a curve of one's own with.
Curve curveOf(const Lane& lane);

} // namespace stone
