#pragma once

#include "app/bench/falloff_editor.h"
#include "app/bench/ledger_view.h"

#include <QCheckBox>
#include <QLineEdit>
#include <QStackedWidget>

namespace stone
{

/// The right column, where the selected thing is worked on.
class BenchPanel : public QWidget
{
    Q_OBJECT

public:
    BenchPanel(Session& session, Playback& playback, QWidget* parent = nullptr);

private:
    QWidget* makeEmpty();
    QWidget* makeEmitter();
    void refresh();
    void refreshLedger();
    /// Connects a field to one number of the emitter.
    void bind(NumberField* field, const QString& what, double Emitter::*member);

    Session& session_;
    Playback& playback_;
    QStackedWidget* pages_;
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
    QLabel* falloffTitle_;
    FalloffEditor* falloff_;
    LedgerView* ledger_;
};

} // namespace stone
