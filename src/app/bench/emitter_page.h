#pragma once

#include "app/forms/page.h"
#include "app/session/playback.h"

#include <QStackedWidget>
#include <QTabBar>

namespace stone
{

class AreaForm;
class BedForm;
class EmitterHead;
class FacingEditor;
class FalloffEditor;
class LedgerView;
class PlacementEditor;
class RoamerForm;
class SprinkleForm;
class StartForm;
class StepsForm;
class WallsView;

/// The page of an emitter: its head, a tab for each side of it, and why it sounds as it does.
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
    void refreshLedger();

    Session& session_;
    Playback& playback_;
    EmitterHead* head_;
    QTabBar* tabs_;
    QStackedWidget* parts_;
    FalloffEditor* falloff_;
    FacingEditor* facing_;
    PlacementEditor* placement_;
    AreaForm* area_;
    BedForm* bed_;
    SprinkleForm* sprinkle_;
    RoamerForm* roamer_;
    StepsForm* steps_;
    StartForm* starting_;
    LedgerView* ledger_;
    WallsView* walls_;
};

} // namespace stone
