// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lists/row_list.h"
#include "app/session/playback.h"

#include <QLabel>
#include <QLineEdit>
#include <QTimer>

namespace stone
{

/// The project's sounds by folder, to be searched, chosen and dragged onto the Plan, with what they take in all.
class SoundLibrary : public QWidget
{
    Q_OBJECT

public:
    SoundLibrary(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// Plays the sound that is chosen, or ends that.
    void audition();

    SoundId current() const { return {list_->currentKey().toStdString()}; }

signals:
    void addWanted();
    void chosen(const SoundId& id);
    /// Enter or a double click.
    void placeWanted(const SoundId& id);

private:
    void refresh();
    void putInFolder(const SoundId& id, const Row& onto);
    Row rowOf(const Sound& sound) const;

    Session& session_;
    Playback& playback_;
    QLineEdit* filter_;
    RowList* list_;
    QLabel* cost_;
    QTimer refreshSoon_;
};

} // namespace stone
