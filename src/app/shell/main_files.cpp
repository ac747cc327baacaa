// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include "app/exports/export_dialog.h"
#include "app/exports/tables_tab.h"
#include "app/levels/bring_in.h"
#include "exports/packing.h"
#include "project/file_error.h"

#include <QFileDialog>
#include <QLocale>
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
    const QString project = isPack(path.toStdString()) ? unpackedFrom(path) : path;
    return !project.isEmpty() && withDocument([&] { session_.open(project.toStdString()); });
}

void MainWindow::openByDialog()
{
    if (!mayLeave()) {
        return;
    }
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Open a project"), QString::fromStdString(session_.folder().string()),
                                     tr("Stone Echo projects (*.stone-echo *.json *.stone-pack)"));
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

/// Packs the project as it is on the screen, with all that it plays.
void MainWindow::sendAsOne()
{
    const QString usual = QString::fromStdString((session_.folder() / (session_.project().name + packEnding)).string());
    QString file = QFileDialog::getSaveFileName(this, tr("The project as one file"), usual, tr("Packs (*.stone-pack)"));
    if (file.isEmpty()) {
        return;
    }
    file += file.endsWith(packEnding) ? QString() : QString(packEnding);
    const auto resolve = [this](const std::string& name) { return session_.resolve(name); };
    try {
        const auto report = packProject(session_.project(), file.toStdString(), {}, resolve);
        QStringList missing;
        for (const std::string& name : report->missing) {
            missing << QString::fromStdString(name);
        }
        const QString size = QLocale().formattedDataSize(static_cast<qint64>(report->bytes));
        banner_->say(missing.isEmpty()
                         ? tr("Packed: %1, %2.").arg(file, size)
                         : tr("Packed: %1, %2; without what is not there: %3.").arg(file, size, missing.join(", ")));
    } catch (const FileError& error) {
        banner_->say(QString::fromUtf8(error.what()));
    }
}

/// A pack is worked on as a folder: beside it, or where one chooses. Empty: it was not unpacked.
QString MainWindow::unpackedFrom(const QString& pack)
{
    const QFileInfo info(pack);
    const QString parent = QFileDialog::getExistingDirectory(
        this, tr("%1 is a pack: a folder for it to lie in").arg(info.fileName()), info.absolutePath());
    if (parent.isEmpty()) {
        return {};
    }
    const QString folder = parent + '/' + info.completeBaseName();
    if (QFileInfo::exists(folder)) {
        banner_->say(tr("There is a %1 already: move it away, or choose another folder for the pack.").arg(folder));
        return {};
    }
    try {
        unpack(pack.toStdString(), folder.toStdString());
    } catch (const FileError& error) {
        banner_->say(QString::fromUtf8(error.what()));
        return {};
    }
    return folder;
}

void MainWindow::exportAll()
{
    auto* dialog = new ExportDialog(session_, playback_, this);
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
