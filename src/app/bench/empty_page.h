// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/page.h"
#include "app/session/playback.h"

#include <QLabel>
#include <QPushButton>

#include <functional>

namespace stone
{

/// What the bench shows while nothing is selected: what to do next, until there is something to hear and a walk to hear it by.
class EmptyPage : public Page
{
    Q_OBJECT

public:
    EmptyPage(Session& session, Playback& playback, QWidget* parent = nullptr);
    bool isOfSelection() const override { return true; }
    void refresh() override;

signals:
    void addSoundsWanted();
    /// A walk is to be drawn on the Plan.
    void drawWalkWanted();

private:
    void offer(QPushButton* button, const QString& text, const std::function<void()>& act);

    Session& session_;
    Playback& playback_;
    QLabel* next_;
    QLabel* why_;
    QLabel* keys_; ///< what keys do
    QPushButton* first_;
    QPushButton* second_;
};

} // namespace stone
