// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lists/row_list.h"
#include "app/session/playback.h"

#include <QLineEdit>
#include <QPushButton>
#include <QStackedWidget>
#include <QTabBar>
#include <QTimer>

namespace stone
{

class SoundLibrary;

/// The left column: what is heard now, everything there is, and the sounds that things are made of.
class EarshotPanel : public QWidget
{
    Q_OBJECT

public:
    EarshotPanel(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// The sound that is chosen in the list of sounds.
    SoundId currentSound() const;
    /// Plays that sound, or ends that.
    void audition();
    void showSounds();

signals:
    void addSoundsWanted();
    void findingsWanted();
    /// An emitter was chosen here: show where it is.
    void emitterChosen(const EmitterId& id);
    /// A sound was chosen in its list.
    void soundChosen(const SoundId& id);
    /// Enter or double-click on a sound: place it.
    void placeWanted(const SoundId& id);

private:
    void refreshHeard();
    void refreshAll();
    QString flagsOf(const Emitter& emitter) const;
    void addGaveWay(std::vector<Row>& rows) const;
    void addRooms(std::vector<Row>& rows) const;
    void addZones(std::vector<Row>& rows) const;
    void refreshFindings();
    void choose(const QString& key);

    Session& session_;
    Playback& playback_;
    QTabBar* tabs_;
    QStackedWidget* pages_;
    RowList* heard_;
    RowList* all_;
    SoundLibrary* sounds_;
    QLineEdit* filter_;
    QPushButton* findings_;
    QElapsedTimer sinceRefresh_;
    QTimer refreshSoon_;
};

/// What is written under an emitter that is heard: "11.7 m, ahead right" or "around you".
QString whereFrom(const Heard& heard, EmitterKind kind);

} // namespace stone
