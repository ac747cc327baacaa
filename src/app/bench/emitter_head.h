// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/bench/pattern_row.h"
#include "app/forms/page.h"
#include "app/session/playback.h"
#include "app/widgets/number_field.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLayout>
#include <QLineEdit>
#include <QToolButton>

namespace stone
{

/// The head of an emitter's page: what it is called, what kind it is, what it plays and where it stands.
class EmitterHead : public Page
{
    Q_OBJECT

public:
    EmitterHead(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;

signals:
    /// Its sound is to be looked at.
    void soundWanted(const stone::SoundId& sound);

private:
    void setUpFields();
    QLayout* nameRows();
    QLayout* settingRows();
    void layOutPlace();
    void connectFields();
    void makeTryMenu();
    void setForEars(std::set<EmitterId> ForEars::*list, bool on);
    /// Connects a field to one number of the emitter.
    void bind(NumberField* field, const QString& what, double EmitterSettings::*member);

    Session& session_;
    Playback& playback_;
    QLineEdit* name_;
    QComboBox* kind_;
    QLabel* reach_; ///< whom an edit reaches, where that is not plain
    QLabel* soundCaption_;
    QWidget* mark_;
    QComboBox* sound_;
    NumberField* level_;
    NumberField* pitch_;
    NumberField* start_;
    QCheckBox* muted_;
    NumberField* place_[3];
    QWidget* placeBox_;
    QToolButton* pin_;
    QToolButton* solo_;
    QToolButton* hushed_;
    QToolButton* try_;
    QComboBox* priority_;
    PatternRow* pattern_;
};

} // namespace stone
