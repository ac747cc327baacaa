// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/page.h"
#include "app/session/playback.h"

#include <QLabel>
#include <QStackedWidget>
#include <QTabBar>

namespace stone
{

class AreaForm;
class BedForm;
class EmitterHead;
class FacingEditor;
class FalloffEditor;
class PlacementEditor;
class RoamerForm;
class SprinkleForm;
class StartForm;
class PulseForm;
class StepsForm;

/// The page of an emitter: its head, and a tab for each side of it.
class EmitterPage : public Page
{
    Q_OBJECT

public:
    EmitterPage(Session& session, Playback& playback, QWidget* parent = nullptr);

    bool isOfSelection() const override { return session_.subject() != nullptr; }
    void refresh() override;
    void follow() override;
    /// Compares falloffs by key; see FalloffEditor::compare().
    void compare();

signals:
    void soundWanted(const stone::SoundId& sound);

private:
    void refreshTabs(const Emitter& emitter);

    Session& session_;
    Playback& playback_;
    EmitterHead* head_;
    QTabBar* tabs_;
    QLabel* about_; ///< what the shown part is for
    QStackedWidget* parts_;
    FalloffEditor* falloff_;
    FacingEditor* facing_;
    PlacementEditor* placement_;
    AreaForm* area_;
    BedForm* bed_;
    SprinkleForm* sprinkle_;
    RoamerForm* roamer_;
    StepsForm* steps_;
    PulseForm* pulse_;
    StartForm* starting_;
};

} // namespace stone
