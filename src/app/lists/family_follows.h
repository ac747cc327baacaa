// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lanes/lane_stack.h"
#include "app/session/playback.h"
#include "app/widgets/number_field.h"

#include <QComboBox>
#include <QDialog>

namespace stone
{

/// What all members of a family follow: lanes over game values, and another falloff for as long as a value is high or low
/// enough.
class FamilyFollows : public QDialog
{
    Q_OBJECT

public:
    FamilyFollows(Session& session, Playback& playback, FamilyId family, QWidget* parent = nullptr);

private:
    QWidget* makeOther();
    LaneStack::Source source();
    void refresh();
    void chooseValue();
    const Family* family() const { return session_.project().families.find(id_); }
    GameValueId value() const { return {value_->currentData().toString().toStdString()}; }

    Session& session_;
    Playback& playback_;
    FamilyId id_;
    QComboBox* value_;
    LaneStack* lanes_;
    QComboBox* falloff_;
    QComboBox* whenValue_;
    QComboBox* whenIs_;
    NumberField* whenNumber_;
};

} // namespace stone
