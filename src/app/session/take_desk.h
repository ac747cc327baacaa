// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"
#include "app/session/take_listening.h"
#include "takes/take_findings.h"
#include "takes/take_reader.h"
#include "takes/take_recorder.h"

#include <QElapsedTimer>
#include <QFutureWatcher>
#include <QObject>

#include <atomic>
#include <filesystem>
#include <memory>
#include <optional>
#include <vector>

namespace stone
{

class Playback;

/// Takes: recorded from what plays, kept beside the project, looked at moment by moment, two against each other. Window thread.
class TakeDesk : public QObject
{
    Q_OBJECT

public:
    TakeDesk(Session& session, Playback& playback, Output::Open open, QObject* parent = nullptr);
    ~TakeDesk() override;

    // --- Recording ---
    /// Records what is heard from now on, until it is called again, listening ends, or the output changes: then it is looked
    /// at. `alongWalk`: follows the chosen walk from its beginning and ends with it.
    void setRecording(bool on, bool alongWalk = false);
    bool recording() const { return recorder_ != nullptr; }
    /// What is noted about the takes that are begun from now on: "blind".
    void setNote(const QString& note) { note_ = note; }
    double recorded_s() const;

    // --- The shelf ---
    struct Kept {
        std::filesystem::path path;
        QString name; ///< of its file, without the ending
        TakeInfo info;
    };
    /// Where takes of the open project are: its folder "takes"; of one that was never saved, in the state folder.
    std::filesystem::path folder() const;
    /// Those that are there, newest first. Read when it changed.
    const std::vector<Kept>& shelf() const { return shelf_; }
    void readShelf();
    /// Gives one another name. One line says what does not work; empty: it did.
    QString rename(const std::filesystem::path& path, const QString& name);
    QString remove(const std::filesystem::path& path);

    // --- Looking ---
    /// Looks at a take: Plan, lists, dial and Ledger show its moments. One line says what does not work.
    QString open(const std::filesystem::path& path);
    /// The one that it is compared with; an empty path: none.
    QString compareWith(const std::filesystem::path& path);
    /// Back to what is heard now.
    void close();
    const std::shared_ptr<const Take>& take() const { return take_; }
    const std::shared_ptr<const Take>& other() const { return other_; }
    /// What to listen to along it; found beside, see findingsFound().
    const std::vector<TakeFinding>& findings() const { return findings_; }
    double cursor_s() const { return cursor_s_; }
    void setCursor(double t_s);
    /// The moment under the cursor; nothing while no take is looked at.
    const std::optional<TakenMoment>& moment() const { return moment_; }
    /// A walk of the level that goes where one went in the take, as one step of the history. One line says what does not work.
    QString makeWalk();

    // --- Listening to it ---
    /// Plays its sound from the cursor on, which goes along, until it is called again or all of it is played.
    void setPlaying(bool on);
    bool playing() const { return listening_.playing(); }
    /// Which of the take and the one that it is compared with is heard, at the same moment.
    void hearOther(bool other);
    bool hearsOther() const { return listening_.hearsOther(); }
    TakeListening& listening() { return listening_; }

signals:
    void recordingChanged();
    void shelfChanged();
    /// Another take is looked at, or compared with, or none.
    void takeChanged();
    void cursorMoved();
    void findingsFound();
    /// The take's sound plays, or does not any more, or the other's.
    void playingChanged();
    /// One line for the person.
    void failed(const QString& message);

private:
    void begin(bool alongWalk);
    void end();
    void followDocument();
    void tick();
    void followSound();
    void moveCursor(double t_s);
    void show();
    QString nextName() const;
    void find();

    Session& session_;
    Playback& playback_;
    std::shared_ptr<TakeRecorder> recorder_;
    std::filesystem::path recordedTo_;
    std::shared_ptr<const Project> recordedDocument_;
    std::shared_ptr<std::atomic<bool>> onWalk_ = std::make_shared<std::atomic<bool>>(false);
    bool alongWalk_ = false;
    QString note_;
    int bumps_ = 0;
    int falls_ = 0;
    QElapsedTimer sinceMemory_;
    std::vector<Kept> shelf_;
    std::filesystem::path shelfOf_;
    std::shared_ptr<const Take> take_;
    std::shared_ptr<const Take> other_;
    double cursor_s_ = 0.0;
    std::optional<TakenMoment> moment_;
    TakeListening listening_;
    bool following_ = false; ///< the cursor is being moved along
    std::vector<TakeFinding> findings_;
    std::shared_ptr<std::atomic<bool>> stopFinding_;
    QFutureWatcher<std::vector<TakeFinding>> finding_;
};

} // namespace stone
