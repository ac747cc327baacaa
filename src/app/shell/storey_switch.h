// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/plan/plan_view.h"
#include "app/widgets/number_field.h"

#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>

namespace stone
{

/// Lies over the Plan: one button for each storey, and the height of the cut, dragged or typed.
class StoreySwitch : public QWidget
{
    Q_OBJECT

public:
    StoreySwitch(Session& session, PlanView& plan, QWidget* parent);

private:
    void rebuild();
    void refresh();

    Session& session_;
    PlanView& plan_;
    QVBoxLayout* buttons_;
    QSlider* slider_;
    NumberField* height_;
};

} // namespace stone
