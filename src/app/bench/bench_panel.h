#pragma once

#include "app/bench/facing_editor.h"
#include "app/bench/falloff_editor.h"
#include "app/bench/ledger_view.h"
#include "app/bench/pattern_row.h"
#include "app/bench/placement_editor.h"
#include "app/sounds/sound_page.h"

#include <QCheckBox>
#include <QLineEdit>
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
    /// Compares falloffs by key; see FalloffEditor::compare().
    void compare() { falloff_->compare(); }

private:
    QWidget* makeEmpty();
    QWidget* makeEmitter();
    void refresh();
    void refreshLedger();
    /// Connects a field to one number of the emitter.
    void bind(NumberField* field, const QString& what, double EmitterSettings::*member);

    Session& session_;
    Playback& playback_;
    QStackedWidget* pages_;
    SoundPage* soundPage_;
    QLineEdit* name_;
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
    QCheckBox* solo_;
    QComboBox* priority_;
    PatternRow* pattern_;
    QTabBar* tabs_;
    QStackedWidget* parts_;
    FalloffEditor* falloff_;
    FacingEditor* facing_;
    PlacementEditor* placement_;
    LedgerView* ledger_;
};

} // namespace stone
