// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/emitter_form.h"
#include "app/widgets/cell_table.h"

#include <QLabel>
#include <QSlider>

namespace stone
{

/// Where a Roamer goes, and a slider that goes its round ahead of time.
class RoamerForm : public EmitterForm
{
    Q_OBJECT

public:
    RoamerForm(Session& session, Playback& playback);
    void refresh() override;

private:
    void showStops(const Emitter& roamer);
    void typeStop(int row, int column, const QString& text);

    QLabel* words_;
    CellTable* stops_;
    QSlider* round_;
};

} // namespace stone
