// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/repetition.h"
#include "app/session/playback.h"

#include <QFutureWatcher>
#include <QLabel>
#include <QPushButton>

namespace stone
{

/// Whether one can hear a sound repeat: renders some minutes of it off the window's thread, listens for what comes again,
/// and draws its level over time and its likeness with itself.
class RepeatView : public QWidget
{
    Q_OBJECT

public:
    RepeatView(Session& session, Playback& playback, QWidget* parent = nullptr);
    ~RepeatView() override;

    /// Forgets what was measured if it was another sound, or this one has changed since.
    void showSound(const SoundId& id);

private:
    class Strip;
    void measure();
    void stop();
    void refresh();
    QString words() const;

    Session& session_;
    Playback& playback_;
    SoundId id_;
    std::shared_ptr<const Sound> measuredOf_;
    std::optional<Repetition> found_;
    bool running_ = false;
    QPushButton* button_;
    QLabel* words_;
    Strip* strip_;
    QFutureWatcher<Repetition> watcher_;
};

} // namespace stone
