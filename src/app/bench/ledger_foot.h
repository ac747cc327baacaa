// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QWidget>

namespace stone
{

class LedgerView;
class WallsView;

/// The foot of the bench: what the emitter on it comes to at the ears, whatever page is open above. Folded it is one line with
/// the sum; unfolded the Ledger's terms, and under them what the walls do.
class LedgerFoot : public QWidget
{
    Q_OBJECT

public:
    LedgerFoot(Session& session, Playback& playback, QWidget* parent = nullptr);

    void refresh();
    /// Shows or hides the terms.
    void setOpen(bool on);
    bool open() const { return open_; }

protected:
    void resizeEvent(QResizeEvent* event) override;

private:
    void fit();
    void showWalls(bool on);

    Session& session_;
    Playback& playback_;
    QPushButton* title_;
    QLabel* sum_;
    LedgerView* ledger_;
    WallsView* walls_;
    QScrollArea* body_;
    bool open_ = true;
};

} // namespace stone
