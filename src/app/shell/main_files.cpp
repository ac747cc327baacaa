// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include "app/exports/export_dialog.h"
#include "app/exports/tables_tab.h"
#include "app/levels/bring_in.h"

#include <QFileDialog>
#include <QSettings>

/// How projects, levels and sounds are opened and brought in.
namespace stone
{

namespace
{

constexpr int mostRecent = 8;
const QString recentKey = QStringLiteral("recentProjects");

} // namespace

/// The open project goes to the top of those opened lately.
void MainWindow::rememberProject()
{
    const QString path = QString::fromStdString(session_.path().string());
    QSettings settings;
    QStringList recent = settings.value(recentKey).toStringList();
    recent.removeAll(path);
    recent.prepend(path);
    settings.setValue(recentKey, recent.mid(0, mostRecent));
    refreshRecent();
    refreshSaves();
}

void MainWindow::refreshRecent()
{
    recent_->clear();
    for (const QString& path : QSettings().value(recentKey).toStringList()) {
        QAction* action = recent_->addAction(path);
        connect(action, &QAction::triggered, this, [this, path] {
            if (mayLeave()) {
                openProject(path);
            }
        });
    }
    recent_->setEnabled(!recent_->isEmpty());
}

bool MainWindow::openProject(const QString& path)
{
    return withDocument([&] { session_.open(path.toStdString()); });
}

void MainWindow::openByDialog()
{
    if (!mayLeave()) {
        return;
    }
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Open a project"), QString::fromStdString(session_.folder().string()),
                                     tr("Stone Echo projects (*.stone-echo *.json)"));
    if (!path.isEmpty()) {
        openProject(path);
    }
}

void MainWindow::addSoundsByDialog()
{
    const QStringList files =
        QFileDialog::getOpenFileNames(this, tr("Add sounds"), QString::fromStdString(session_.folder().string()),
                                      tr("Sounds (*.wav *.flac *.ogg *.opus *.mp3 *.aiff *.aif)"));
    if (!files.isEmpty()) {
        session_.addSounds(files);
        lists_->showSounds();
    }
}

void MainWindow::exportAll()
{
    auto* dialog = new ExportDialog(session_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void MainWindow::takeTables()
{
    const QStringList files =
        QFileDialog::getOpenFileNames(this, tr("Take tables of emitters or walks in"),
                                      QString::fromStdString(session_.folder().string()), tr("Tables (*.csv)"));
    const QString words = files.isEmpty() ? QString() : takeTablesIn(session_, files);
    if (!words.isEmpty()) {
        banner_->say(words);
    }
}

void MainWindow::bringInLevel(const QString& dropped)
{
    const QString file =
        dropped.isEmpty() ? QFileDialog::getOpenFileName(this, tr("Bring in a level"),
                                                         QString::fromStdString(session_.folder().string()), BringIn::filter())
                          : dropped;
    if (!file.isEmpty()) {
        BringIn(session_, file, this).exec();
    }
}

/// What one sees first where no project was named.
void MainWindow::offerFirst()
{
    first_->offer(QSettings().value(recentKey).toStringList());
}

} // namespace stone
