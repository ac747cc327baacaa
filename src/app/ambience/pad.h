#pragma once

#include "app/session/playback.h"

#include <QDialog>
#include <QVBoxLayout>

namespace stone
{

/// Signals sent and game values moved by hand. Stays open beside the window.
class Pad : public QDialog
{
    Q_OBJECT

public:
    Pad(Session& session, Playback& playback, QWidget* parent = nullptr);

private:
    void rebuild();
    void refresh();

    Session& session_;
    Playback& playback_;
    QWidget* signalList_ = nullptr;
    QWidget* values_ = nullptr;
    List<Signal> shownSignals_;
    List<GameValue> shownValues_;
    bool built_ = false;
    std::vector<std::function<void()>> shows_;
};

} // namespace stone
