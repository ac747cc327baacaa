#pragma once

#include "app/ambience/kind_forms.h"
#include "app/ambience/roamer_form.h"
#include "app/ambience/sprinkle_form.h"
#include "app/ambience/start_form.h"
#include "app/ambience/zone_page.h"
#include "app/bench/facing_editor.h"
#include "app/bench/falloff_editor.h"
#include "app/bench/ledger_view.h"
#include "app/bench/pattern_row.h"
#include "app/bench/placement_editor.h"
#include "app/ears/rig_page.h"
#include "app/gaze/gaze_page.h"
#include "app/rooms/opening_page.h"
#include "app/rooms/room_page.h"
#include "app/sounds/sound_page.h"
#include "app/walls/walls_view.h"

#include <QCheckBox>
#include <QLineEdit>
#include <QScrollArea>
#include <QStackedWidget>
#include <QTabBar>
#include <QToolButton>

namespace stone
{

/// The right column, where the selected thing is worked on.
class BenchPanel : public QWidget
{
    Q_OBJECT

public:
    BenchPanel(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// Puts a sound on the bench, until an emitter is chosen.
    void showSound(const SoundId& id);
    /// The rig in use, or back to what is selected.
    void showRig(bool on);
    /// Shows the gazes, or goes back.
    void showGaze(bool on);
    /// Compares falloffs by key; see FalloffEditor::compare().
    void compare() { falloff_->compare(); }

signals:
    /// The outline, line or stops of what is on the bench are to be drawn on the Plan.
    void drawWanted();
    /// Its shape is to be put round a part of the level that is clicked there.
    void fitWanted();
    void decayWanted();
    /// Two rigs are to be compared.
    void compareWanted();
    /// A side of the selected zone is looked at; -1: none.
    void sideChosen(int side);
    /// A Roamer's round is looked at ahead of time; below 0: no more.
    void previewed(double time_s);

private:
    QWidget* makeEmpty();
    QWidget* makeEmitter();
    void refresh();
    void refreshLedger();
    void refreshTabs(const Emitter& emitter);
    void setForEars(std::set<EmitterId> ForEars::*list, bool on);
    /// Connects a field to one number of the emitter.
    void bind(NumberField* field, const QString& what, double EmitterSettings::*member);

    Session& session_;
    Playback& playback_;
    QStackedWidget* pages_;
    SoundPage* soundPage_;
    QLineEdit* name_;
    QComboBox* kind_;
    QLabel* subtitle_;
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
    QComboBox* priority_;
    PatternRow* pattern_;
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
    ZonePage* zonePage_;
    RigPage* rigPage_;
    GazePage* gazePage_;
    RoomPage* roomPage_;
    OpeningPage* openingPage_;
    bool rigShown_ = false;
    bool gazeShown_ = false;
    LedgerView* ledger_;
    WallsView* walls_;
    QScrollArea* emitterScroll_ = nullptr;
};

} // namespace stone
