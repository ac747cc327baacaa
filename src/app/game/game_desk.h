// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "follow/game_link.h"

#include <QElapsedTimer>
#include <QObject>
#include <QStringList>

#include <memory>

namespace stone
{

/// Listens along to a game that is running: the character goes where the game says, what the game puts there is heard, and the
/// game is told what is heard and what is changed here. Nothing of what it tells gets into the project. Window thread.
class GameDesk : public QObject
{
    Q_OBJECT

public:
    GameDesk(Session& session, Playback& playback, QObject* parent = nullptr);
    ~GameDesk() override;

    /// Begins to listen at a port of this machine, to it alone or to others too. One line says what does not work; empty: it
    /// did.
    QString begin(int port, bool anywhere);
    void end();
    bool on() const { return link_ != nullptr; }
    int port() const { return link_ ? link_->port() : 0; }
    bool anywhere() const { return anywhere_; }

    /// How it goes, while on().
    Follower::Report report() const;
    /// The addresses that it tells back.
    QStringList games() const;
    /// In one line: what comes, and from whom.
    QString words() const;

signals:
    /// It begins or ends; and a few times a second while it is on.
    void changed();

private:
    void tick();
    void followDocument();
    void tellHeard();

    Session& session_;
    Playback& playback_;
    std::shared_ptr<Follower> follower_;
    std::unique_ptr<GameLink> link_;
    bool anywhere_ = false;
    std::uint64_t things_ = 0; ///< as they are heard, by serial
    LevelId gone_;             ///< the level that the game said last
    std::shared_ptr<const Project> told_;
    LevelId toldOf_;
    std::uint64_t changes_ = 0; ///< that games were told of
    QElapsedTimer sinceTold_;
};

} // namespace stone
