// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/rig_comparison.h"
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

/// Two rigs on the same walk: for each emitter how much louder and how far to another side it is through the second, as a
/// table, and over the time of the walk.
class RigCompare : public QDialog
{
    Q_OBJECT

public:
    RigCompare(Session& session, Playback& playback, QWidget* parent = nullptr);
    ~RigCompare() override;

private:
    void offer();
    void compare();
    void finished();
    void showRows();
    void showRow();
    void layOutPlot();

    Session& session_;
    Playback& playback_;
    QComboBox* first_;
    QComboBox* second_;
    QComboBox* walk_;
    QPushButton* button_;
    QLabel* words_;
    QTableWidget* table_;
    QCustomPlot* plot_;
    QFutureWatcher<RigComparison> watcher_;
    bool running_ = false;
    RigComparison found_;
};

} // namespace stone
