// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/strata/take_page_job.h"

#include "app/session/work_pool.h"

#include "project/atomic_file.h"
#include "project/file_error.h"
#include "takes/take_page.h"

#include <QtConcurrent>

namespace stone
{

TakePageJob::TakePageJob(const TakeDesk& desk, const QString& file, QWidget* window)
    : QObject(window), take_(desk.take()->path()), other_(desk.other() ? desk.other()->path() : std::filesystem::path()),
      file_(file), progress_(new QProgressDialog(tr("Writing the page…"), tr("Stop"), 0, 100, window))
{
    progress_->setObjectName("pageProgress");
    progress_->setWindowTitle(tr("A page to show others"));
    progress_->setMinimumDuration(400);
    connect(progress_, &QProgressDialog::canceled, this, [this] { watcher_.cancel(); });
    connect(&watcher_, &QFutureWatcherBase::progressValueChanged, progress_, &QProgressDialog::setValue);
    connect(&watcher_, &QFutureWatcherBase::finished, this, &TakePageJob::finished);
}

void TakePageJob::begin()
{
    watcher_.setFuture(QtConcurrent::run(&workPool(), [take = take_, other = other_, file = file_](QPromise<QString>& promise) {
        promise.setProgressRange(0, 100);
        try {
            // Readers of its own: the ones that are looked at are asked meanwhile.
            const Take first(take);
            const auto second = other.empty() ? nullptr : std::make_unique<const Take>(other);
            const std::string page = takePage(first, second.get(), [&](double share) {
                promise.setProgressValue(static_cast<int>(share * 100.0));
                return !promise.isCanceled();
            });
            if (!promise.isCanceled()) {
                writeAtomically(file.toStdString(), page);
                promise.addResult(QString());
            }
        } catch (const FileError& error) {
            promise.addResult(QString::fromStdString(error.what()));
        }
    }));
}

void TakePageJob::finished()
{
    progress_->reset();
    progress_->deleteLater();
    deleteLater();
    const bool any = !watcher_.isCanceled() && watcher_.future().resultCount() > 0;
    const QString problem = any ? watcher_.result() : tr("Stopped: no page was written.");
    emit done(problem.isEmpty() ? tr("Written to %1: it opens in any browser, from the disk.").arg(file_) : problem,
              problem.isEmpty() ? file_ : QString());
}

} // namespace stone
