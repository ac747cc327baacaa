// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/emitter_form.h"
#include "app/widgets/cell_table.h"

#include <QLabel>

namespace stone
{

/// How an Area fills its shape.
class AreaForm : public EmitterForm
{
    Q_OBJECT

public:
    AreaForm(Session& session, Playback& playback);
};

/// What a bed belongs to, and what its image is fixed to.
class BedForm : public EmitterForm
{
    Q_OBJECT

public:
    BedForm(Session& session, Playback& playback);
    void refresh() override;

private:
    QLabel* words_;
};

/// The walking character's steps: a sound for each surface.
class StepsForm : public EmitterForm
{
    Q_OBJECT

public:
    StepsForm(Session& session, Playback& playback);
    void refresh() override;
    void follow() override { refresh(); }

private:
    void showStride(const Stepping& stepping);
    void typeStride(int row, int column, const QString& text);
    void rebuild(const std::vector<std::string>& surfaces);

    QLabel* under_;
    CellTable* stride_;
    QWidget* list_;
    std::vector<std::string> shown_;
    std::vector<QComboBox*> sounds_;
    std::vector<NumberField*> levels_;
};

} // namespace stone
