// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include "app/blind/blind_walk.h"
#include "app/crowd/cost_dialog.h"
#include "app/crowd/crowd_dialog.h"
#include "app/session/take_desk.h"
#include "app/shell/banner.h"
#include "app/shell/sheets.h"
#include "app/strata/film_dialog.h"
#include "app/strata/strata_panel.h"
#include "app/strata/take_comparison.h"
#include "app/strata/take_page_job.h"

#include <QFileDialog>
#include <QMenuBar>

/// The main window's Takes menu: what a run through the level was like, what it cost, and what a change did to it.
namespace stone
{

void MainWindow::makeTakeMenu()
{
    TakeDesk& desk = playback_.takes();
    QMenu* menu = menuBar()->addMenu(tr("Ta&kes"));
    QAction* strata = add(menu, tr("S&trata: takes over time"), QKeySequence("Ctrl+T"), [] {});
    strata->setCheckable(true);
    strata->setObjectName("showStrata");
    connect(strata, &QAction::toggled, &sheets_->strata(), &QWidget::setVisible);
    connect(&sheets_->strata(), &StrataPanel::said, this, [this](const QString& message) { banner_->say(message); });
    const auto beside = [](QDialog* dialog) {
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    };
    const auto compare = [this, beside] { beside(new TakeComparisonDialog(session_, playback_.takes(), this)); };
    connect(&sheets_->strata(), &StrataPanel::comparisonWanted, this, compare);
    menu->addSeparator();
    QAction* record = add(menu, tr("&Record a take, or end it"), QKeySequence("Ctrl+R"), [this, strata] {
        strata->setChecked(true);
        playback_.takes().setRecording(!playback_.takes().recording());
    });
    record->setCheckable(true);
    connect(&desk, &TakeDesk::recordingChanged, record, [this, record] { record->setChecked(playback_.takes().recording()); });
    QAction* along = add(menu, tr("Record the &walk from its beginning"), QKeySequence("Ctrl+Shift+R"), [this, strata] {
        strata->setChecked(true);
        playback_.takes().setRecording(true, true);
    });
    menu->addSeparator();
    QAction* play = add(menu, tr("&Play the take from the line, or stop"), {}, [this] { listenOrStop(); });
    QAction* other = add(menu, tr("Hear the &other take at the same moment"), QKeySequence("Shift+X"),
                         [this] { playback_.takes().hearOther(!playback_.takes().hearsOther()); });
    other->setCheckable(true);
    QAction* differ = add(menu, tr("What the two &differ in…"), {}, compare);
    menu->addSeparator();
    QAction* walk = add(menu, tr("Make a wal&k of it"), {}, [this] {
        const QString problem = playback_.takes().makeWalk();
        banner_->say(problem.isEmpty()
                         ? tr("A walk that goes where this take went: it is selected. Ctrl+Z takes it away again.")
                         : problem);
    });
    QAction* page = add(menu, tr("A pa&ge to show others…"), {}, [this] { writeTakePage(); });
    QAction* film = add(menu, tr("A &film of it…"), {}, [this, beside] {
        auto* dialog = new FilmDialog(session_, playback_, this);
        connect(dialog, &FilmDialog::made, this, [this](const QString& message) { banner_->say(message); });
        beside(dialog);
    });
    menu->addSeparator();
    add(menu, tr("&Voices, and who gives way…"), QKeySequence("Ctrl+K"),
        [this, beside] { beside(new CrowdDialog(session_, playback_, this)); });
    add(menu, tr("What it cost&s…"), QKeySequence("Ctrl+Shift+K"),
        [this, beside] { beside(new CostDialog(session_, playback_, this)); });
    const auto enable = [this, along, play, other, differ, walk, page, film] {
        const TakeDesk& takes = playback_.takes();
        const bool any = takes.take() != nullptr;
        for (QAction* action : {play, walk, page, film}) {
            action->setEnabled(any);
        }
        for (QAction* action : {other, differ}) {
            action->setEnabled(any && takes.other() != nullptr);
        }
        other->setChecked(takes.hearsOther());
        along->setEnabled(!takes.recording() && !playback_.walk().empty());
    };
    for (const auto signal : {&TakeDesk::takeChanged, &TakeDesk::recordingChanged, &TakeDesk::playingChanged}) {
        connect(&desk, signal, menu, enable);
    }
    connect(&playback_, &Playback::walkChanged, menu, enable);
    connect(&sheets_->blindWalk(), &BlindWalk::changed, this,
            [this] { playback_.takes().setNote(sheets_->blindWalk().on() ? tr("blind") : QString()); });
    enable();
}

/// What is looked at is heard: the level, or the take.
void MainWindow::listenOrStop()
{
    TakeDesk& takes = playback_.takes();
    if (takes.take()) {
        takes.setPlaying(!takes.playing());
    } else {
        playback_.setListening(!playback_.listening());
    }
}

void MainWindow::writeTakePage()
{
    const TakeDesk& takes = playback_.takes();
    const std::string name = takes.take()->path().stem().string();
    const QString file = QFileDialog::getSaveFileName(this, tr("A page to show others"),
                                                      QString::fromStdString((session_.folder() / (name + ".html")).string()),
                                                      tr("Page (*.html)"));
    if (file.isEmpty()) {
        return;
    }
    auto* job = new TakePageJob(takes, file, this);
    connect(job, &TakePageJob::done, this, [this](const QString& message) { banner_->say(message); });
    job->begin();
}

} // namespace stone
