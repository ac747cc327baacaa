// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "app/session/take_desk.h"
#include "app/strata/strata_view.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>

namespace stone
{

/// Takes below the Plan: recording one, choosing which is looked at and against which, and the layered graph of it.
class StrataPanel : public QWidget
{
    Q_OBJECT

public:
    StrataPanel(Session& session, Playback& playback, QWidget* parent = nullptr);

    StrataView& view() { return *view_; }

signals:
    /// What two takes differ in is wanted beside it.
    void comparisonWanted();
    /// One line for the person.
    void said(const QString& message);

private:
    void refreshShelf();
    void refreshRecording();
    void fillMenu();
    void renameTake();
    void removeTake();
    void addStrip();
    static void offer(QComboBox* chooser, const QString& none, const std::vector<TakeDesk::Kept>& shelf,
                      const std::shared_ptr<const Take>& chosen);

    Session& session_;
    Playback& playback_;
    TakeDesk& desk_;
    QPushButton* record_;
    QToolButton* play_;
    QToolButton* swap_; ///< which of two takes is heard
    QToolButton* more_;
    QComboBox* take_;
    QComboBox* other_;
    QComboBox* by_;
    QPushButton* compare_;
    QLabel* now_;
    StrataView* view_;
};

} // namespace stone
