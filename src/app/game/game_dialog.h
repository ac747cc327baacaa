// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/game/game_desk.h"

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

namespace stone
{

class NumberField;

/// Begins and ends listening along to a game, and shows what comes: how often, how late, and which names are not here.
class GameDialog : public QDialog
{
    Q_OBJECT

public:
    explicit GameDialog(GameDesk& desk, QWidget* parent = nullptr);

private:
    void beginOrEnd();
    void refresh();

    GameDesk& desk_;
    NumberField* port_;
    QCheckBox* anywhere_;
    QPushButton* begin_;
    QLabel* state_;
    QLabel* wrong_;
    QTableWidget* unknown_;
};

} // namespace stone
