// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QRadioButton>

namespace stone
{

class OutputMenu;

/// Asks how one listens, and lets one try it: bursts from each side, and going round.
class OutputTrial : public QDialog
{
    Q_OBJECT

public:
    OutputTrial(Playback& playback, OutputMenu& output, QWidget* parent = nullptr);

    /// Whether it was asked on this machine before.
    static bool asked();

protected:
    void done(int result) override;

private:
    void refresh();

    Playback& playback_;
    OutputMenu& output_;
    QRadioButton* headphones_;
    QRadioButton* loudspeakers_;
    QLabel* words_;
};

} // namespace stone
