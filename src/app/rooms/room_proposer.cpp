// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/rooms/room_proposer.h"

#include "app/session/work_pool.h"

#include <QtConcurrent>

namespace stone
{

RoomProposer::RoomProposer(Session& session, const Storey& storey, QWidget* window)
    : QObject(window), session_(session), storey_(storey), level_(session.levelId()),
      progress_(new QProgressDialog(tr("Looking for rooms…"), tr("Stop"), 0, 100, window))
{
    progress_->setObjectName("roomProgress");
    progress_->setWindowTitle(tr("Rooms from the level"));
    progress_->setMinimumDuration(400);
    connect(progress_, &QProgressDialog::canceled, this, [this] { watcher_.cancel(); });
    connect(&watcher_, &QFutureWatcherBase::progressValueChanged, progress_, &QProgressDialog::setValue);
    connect(&watcher_, &QFutureWatcherBase::finished, this, &RoomProposer::finished);
}

void RoomProposer::begin()
{
    watcher_.setFuture(QtConcurrent::run(
        &workPool(), [project = session_.document(), level = level_, storey = storey_,
                      ground = session_.loadedLevel().ground](QPromise<std::optional<RoomProposals>>& promise) {
            promise.setProgressRange(0, 100);
            promise.addResult(proposeRooms(*project, *project->levels.find(level), storey, *ground, [&](double share) {
                promise.setProgressValue(static_cast<int>(share * 100.0));
                return !promise.isCanceled();
            }));
        }));
}

void RoomProposer::finished()
{
    progress_->reset();
    progress_->deleteLater();
    deleteLater();
    const bool any = !watcher_.isCanceled() && watcher_.future().resultCount() > 0;
    const std::optional<RoomProposals> found = any ? watcher_.result() : std::nullopt;
    if (!found || session_.levelId() != level_) {
        emit done(tr("Stopped: no rooms were looked for to the end."));
        return;
    }
    const auto rooms = static_cast<int>(found->rooms.size());
    const auto openings = static_cast<int>(found->openings.size());
    if (rooms + openings == 0) {
        emit done(tr("At %1 m the level shows no closed space that is not a room yet. Try another storey, or draw rooms with "
                     "Add › Room.")
                      .arg(storey_.cut_m, 0, 'f', 2));
        return;
    }
    const QString what = tr("%1 and %2")
                             .arg(rooms == 1 ? tr("one room") : tr("%1 rooms").arg(rooms),
                                  openings == 1 ? tr("one opening") : tr("%1 openings").arg(openings));
    session_.addSpaces(found->rooms, found->openings, tr("Find %1 in the level").arg(what));
    emit done(tr("Found %1. Click one to name it, pull it right or delete it; Ctrl+Z takes them all back.").arg(what));
}

} // namespace stone
