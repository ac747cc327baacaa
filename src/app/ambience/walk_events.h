// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QWidget>

namespace stone
{

/// What happens on the time line of the chosen walk: signals, game values, what the character does. Renders contain it.
class WalkEvents : public QWidget
{
    Q_OBJECT

public:
    WalkEvents(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// Puts something on the walk, at the moment that the walk is at.
    void add(WalkEvent event);

private:
    void rebuild();
    void build();
    QHBoxLayout* burstFields(std::size_t index, const Burst& burst, const QString& what);
    const Walk* walk() const { return session_.level().walks.find(playback_.walk()); }

    Session& session_;
    Playback& playback_;
    QLabel* title_;
    QWidget* list_;
    std::shared_ptr<const Project> shownOf_;
    WalkId shown_;
};

} // namespace stone
