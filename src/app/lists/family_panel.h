// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "app/session/session.h"
#include "app/widgets/number_field.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include <functional>

namespace stone
{

/// The families of the project, each with its level, mute and solo at hand, and the chosen one in full beneath.
class FamilyPanel : public QWidget
{
    Q_OBJECT

public:
    FamilyPanel(Session& session, Playback& playback, QWidget* parent = nullptr);

private:
    class Row;

    void refresh();
    void refreshDetail();
    int membersOf(const FamilyId& id) const;

    Session& session_;
    Playback& playback_;
    FamilyId chosen_;
    QVBoxLayout* rows_;
    QLabel* empty_;
    QWidget* detail_;
    QLineEdit* name_;
    NumberField* lowPass_;
    NumberField* highPass_;
    NumberField* reach_;
    QComboBox* priority_;
    std::vector<Row*> shown_;
};

} // namespace stone
