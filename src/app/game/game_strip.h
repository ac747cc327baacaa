// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/game/game_desk.h"

#include <QLabel>
#include <QWidget>

namespace stone
{

/// Says that a game is listened along to, and how that goes. Hidden while none is.
class GameStrip : public QWidget
{
    Q_OBJECT

public:
    explicit GameStrip(GameDesk& desk, QWidget* parent = nullptr);

signals:
    /// Somebody wants to know more.
    void asked();

private:
    void refresh();

    GameDesk& desk_;
    QLabel* words_;
};

} // namespace stone
