// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/decay.h"
#include "analysis/impulse_response.h"
#include "app/session/playback.h"

#include <QComboBox>
#include <QDialog>
#include <QFutureWatcher>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

class QCustomPlot;

namespace stone
{

/// What a place answers: the impulse response from an emitter, or from a step ahead, to the ears, as its energy dies away in
/// each octave band, with the usual numbers; and as a WAV file.
class DecayView : public QDialog
{
    Q_OBJECT

public:
    DecayView(Session& session, Playback& playback, QWidget* parent = nullptr);
    ~DecayView() override;

private:
    /// A response with what was found in it.
    struct Answer {
        std::optional<ImpulseResponse> response;
        DecayReport report;
    };

    void offer();
    void measure();
    void finished();
    void showReport();
    void showBand();
    void layOutPlot();
    void save();
    ImpulseQuestion question() const;

    Session& session_;
    Playback& playback_;
    QComboBox* from_;
    QPushButton* button_;
    QLabel* words_;
    QCustomPlot* plot_;
    QTableWidget* table_;
    QComboBox* layout_;
    QPushButton* save_;
    QFutureWatcher<Answer> watcher_;
    bool running_ = false;
    std::optional<DecayReport> report_;
    QString where_;  ///< what was measured
    QString target_; ///< to be written once it is rendered; empty: it is only looked at
};

} // namespace stone
