// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/room_proposals.h"
#include "app/session/session.h"

#include <QFutureWatcher>
#include <QProgressDialog>

namespace stone
{

/// Looks for rooms and openings in the level's geometry, on a thread of the pool and with a way to stop it, and puts what it
/// finds into the document in one step. Deletes itself when it is done.
class RoomProposer : public QObject
{
    Q_OBJECT

public:
    /// The session's level must have geometry.
    RoomProposer(Session& session, const Storey& storey, QWidget* window);
    void begin();

signals:
    /// What came of it: one line for the person.
    void done(const QString& words);

private:
    void finished();

    Session& session_;
    Storey storey_;
    LevelId level_;
    QProgressDialog* progress_;
    QFutureWatcher<std::optional<RoomProposals>> watcher_;
};

} // namespace stone
