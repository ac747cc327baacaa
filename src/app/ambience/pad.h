// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/ambience/walk_events.h"

#include <QDialog>
#include <QVBoxLayout>

namespace stone
{

/// Signals sent and game values moved by hand, set up, and put on the chosen walk. Stays open beside the window.
class Pad : public QDialog
{
    Q_OBJECT

public:
    Pad(Session& session, Playback& playback, QWidget* parent = nullptr);

private:
    void rebuild();
    void refresh();
    void buildSignals();
    void buildValues();
    QWidget* valueSettings(const GameValue& value);
    void editValue(const GameValueId& id, const QString& what, const QString& gesture,
                   const std::function<void(GameValue&)>& change);

    Session& session_;
    Playback& playback_;
    QWidget* signalList_ = nullptr;
    QWidget* values_ = nullptr;
    WalkEvents* events_;
    std::set<GameValueId> open_; ///< whose settings are shown
    List<Signal> shownSignals_;
    List<GameValue> shownValues_;
    bool built_ = false;
    std::vector<std::function<void()>> shows_;
};

} // namespace stone
