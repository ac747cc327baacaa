// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/take_desk.h"

#include <QFutureWatcher>
#include <QProgressDialog>

namespace stone
{

/// Writes the take that is looked at, and what it is compared with, as a page for a browser, on another thread, with a dialog
/// that can stop it. Goes away by itself when it is done.
class TakePageJob : public QObject
{
    Q_OBJECT

public:
    TakePageJob(const TakeDesk& desk, const QString& file, QWidget* window);

    void begin();

signals:
    /// One line for the person, and the file where there is one.
    void done(const QString& message, const QString& file);

private:
    void finished();

    std::filesystem::path take_;
    std::filesystem::path other_; ///< empty: none
    QString file_;
    QProgressDialog* progress_;
    QFutureWatcher<QString> watcher_; ///< of what does not work; empty: it did
};

} // namespace stone
