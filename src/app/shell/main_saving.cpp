// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/changed_on_disk.h"
#include "app/shell/main_window.h"
#include "project/difference.h"
#include "project/file_error.h"
#include "project/merge.h"
#include "project/read.h"

#include <QDateTime>
#include <QFileDialog>
#include <QMessageBox>

#include <chrono>
#include <utility>

/// The window's part in saving: what is asked before anything is lost, and what comes back.
namespace stone
{

namespace
{

/// The first few of a list of lines, and how many more there are.
QString firstOf(const QStringList& lines)
{
    constexpr int most = 8;
    QString text = lines.mid(0, most).join('\n');
    if (lines.size() > most) {
        text += QObject::tr("\nand %1 more").arg(lines.size() - most);
    }
    return text;
}

QString changesIn(const Project& before, const Project& after)
{
    QStringList lines;
    for (const Difference& difference : differences(before, after)) {
        lines << QString::fromStdString(inWords(difference));
    }
    return firstOf(lines);
}

} // namespace

bool MainWindow::mayLeave()
{
    if (!session_.changed()) {
        return true;
    }
    QMessageBox box(QMessageBox::Question, tr("Unsaved changes"),
                    tr("%1 has changes that are not saved.").arg(QString::fromStdString(session_.project().name)),
                    QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    box.setObjectName("unsavedChanges");
    box.setInformativeText(tr("Without saving they are lost."));
    const int answer = box.exec();
    return answer == QMessageBox::Discard || (answer == QMessageBox::Save && save());
}

bool MainWindow::save()
{
    session_.lookAt({}); // what is saved is the document as it is
    return session_.path().empty() ? saveAs() : mayOverwrite() && saveTo(session_.path());
}

/// Asks what to do where somebody else wrote the document meanwhile; false: it is not to be saved now.
bool MainWindow::mayOverwrite()
{
    std::optional<Project> theirs;
    try {
        theirs = session_.changedOnDisk();
    } catch (const FileError& error) {
        banner_->say(tr("The document was changed on the disk by something else and cannot be read any more: %1. Save it under "
                        "another name, or put the file in order")
                         .arg(QString::fromStdString(error.what())));
        return false;
    }
    if (!theirs) {
        return true;
    }
    std::vector<Clash> clashes;
    QString trouble;
    try {
        clashes = merged(session_.common(), session_.project(), *theirs).clashes;
    } catch (const FileError& error) {
        trouble = QString::fromStdString(error.what());
    }
    ChangedOnDisk box(QString::fromStdString(session_.path().filename().string()), changesIn(session_.common(), *theirs),
                      clashes, trouble, this);
    box.exec();
    if (box.answer() == ChangedOnDisk::Answer::nothing) {
        return false;
    }
    if (box.answer() == ChangedOnDisk::Answer::both) {
        try {
            session_.edit(merged(session_.common(), session_.project(), *theirs, box.wins()).project,
                          tr("Bring in what changed on the disk"));
        } catch (const FileError& error) {
            banner_->say(QString::fromStdString(error.what())); // another choice than the one that was tried first
            return false;
        }
    }
    session_.acceptDisk(*theirs);
    return true;
}

/// Opens or saves; false: it could not be done, and the banner says so until something of the kind can.
bool MainWindow::withDocument(const std::function<void()>& act)
{
    try {
        act();
    } catch (const FileError& error) {
        banner_->say(QString::fromStdString(error.what()));
        fileTrouble_ = true;
        return false;
    }
    if (std::exchange(fileTrouble_, false)) {
        banner_->hide(); // what it said is over
    }
    rememberProject();
    return true;
}

/// Says so as long as what is not saved would be lost with the program.
void MainWindow::tellOfKeeping(const QString& why)
{
    if (!keepingTrouble_.isEmpty() && banner_->message() == keepingTrouble_) {
        banner_->hide();
    }
    keepingTrouble_ =
        why.isEmpty() ? QString()
                      : tr("What is not saved cannot be kept for the case of a crash (%1): save often until it can").arg(why);
    if (!keepingTrouble_.isEmpty()) {
        banner_->say(keepingTrouble_);
    }
}

bool MainWindow::saveTo(const std::filesystem::path& path)
{
    return withDocument([&] { session_.saveAs(path); });
}

bool MainWindow::saveAs()
{
    const std::filesystem::path usual = session_.path().empty()
                                            ? std::filesystem::path(QDir::homePath().toStdString()) / session_.project().name
                                            : session_.path();
    const QString path = QFileDialog::getSaveFileName(this, tr("Save the project as"), QString::fromStdString(usual.string()),
                                                      tr("Stone Echo projects (*.stone-echo *.json)"));
    return !path.isEmpty() && saveTo(path.toStdString());
}

void MainWindow::offerLeftBehind()
{
    const std::vector<LeftBehind> all = session_.leftBehind();
    if (all.empty()) {
        return;
    }
    const LeftBehind& left = all.front();
    const QString name = QString::fromStdString(left.project->name);
    const auto when = std::chrono::file_clock::to_sys(left.when).time_since_epoch();
    const QString time =
        QDateTime::fromSecsSinceEpoch(std::chrono::duration_cast<std::chrono::seconds>(when).count()).toString("d MMMM, HH:mm");
    QString changes;
    try {
        const Project saved = left.document.empty() ? blankProject() : readProjectFile(left.document).project;
        changes = changesIn(saved, *left.project);
    } catch (const FileError&) {
        changes = tr("all of it: its file is gone");
    }
    QMessageBox box(QMessageBox::Question, tr("Not saved"),
                    tr("Stone Echo ended on %1 while %2 had changes that were not saved. Bring them back?").arg(time, name),
                    QMessageBox::NoButton, this);
    box.setObjectName("leftBehind");
    box.setInformativeText(tr("The last was: %1\n\n%2").arg(QString::fromStdString(left.lastStep), changes));
    QPushButton* back = box.addButton(tr("Bring them back"), QMessageBox::AcceptRole);
    back->setObjectName("bringBack");
    QPushButton* away = box.addButton(tr("Throw them away"), QMessageBox::DestructiveRole);
    away->setObjectName("throwAway");
    box.addButton(tr("Later"), QMessageBox::RejectRole);
    box.exec();
    if (box.clickedButton() == away) {
        forget(left);
    } else if (box.clickedButton() == back && mayLeave()) {
        try {
            session_.bringBack(left);
            banner_->say(tr("What was not saved is back. Undo takes it away again; save to keep it."));
        } catch (const FileError& error) {
            banner_->say(QString::fromStdString(error.what()));
        }
    }
}

/// The saves before the last one: what was lost by a save can be had again.
void MainWindow::refreshSaves()
{
    saves_->clear();
    for (const KeptSave& save : session_.earlierSaves()) {
        const auto when = std::chrono::file_clock::to_sys(save.when).time_since_epoch();
        const QString time = QDateTime::fromSecsSinceEpoch(std::chrono::duration_cast<std::chrono::seconds>(when).count())
                                 .toString("d MMM, HH:mm:ss");
        add(saves_, time, {}, [this, save, time] {
            try {
                session_.takeEarlierSave(save, time);
            } catch (const FileError& error) {
                banner_->say(QString::fromStdString(error.what()));
            }
        });
    }
    saves_->setEnabled(!saves_->isEmpty());
}

} // namespace stone
