// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/page.h"
#include "app/session/playback.h"

#include <QScrollArea>
#include <QStackedWidget>

#include <vector>

namespace stone
{

class LedgerFoot;

/// The right column, where the selected thing is worked on: the page of what is selected, or one that was asked for.
class BenchPanel : public QWidget
{
    Q_OBJECT

public:
    BenchPanel(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// Puts a sound on the bench, until something is selected.
    void showSound(const SoundId& id);
    /// The rig in use, or back to what is selected.
    void showRig(bool on);
    /// Shows the gazes, or goes back.
    void showGaze(bool on);
    /// The level that is shown, or back.
    void showLevel(bool on);
    /// Compares falloffs by key; see FalloffEditor::compare().
    void compare();

signals:
    /// See EmptyPage.
    void addSoundsWanted();
    void drawWalkWanted();
    /// See Page.
    void drawWanted();
    void runWanted(bool blind);
    void fitWanted();
    void decayWanted();
    void compareWanted();
    void levelWanted();
    void sideChosen(int side);
    void previewed(double time_s);

private:
    template <class Wanted> Wanted* page() const;
    void showGuest(Page* guest);
    Page* pageNow() const;
    void refresh();
    void selectionChanged();

    Session& session_;
    QStackedWidget* stack_;
    LedgerFoot* foot_;
    std::vector<Page*> pages_;
    Page* guest_ = nullptr; ///< asked for, in place of that of the selection
};

} // namespace stone
