// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/blind/blind_walk.h"
#include "app/blind/run_clock.h"
#include "app/session/take_desk.h"
#include "app/shell/banner.h"
#include "app/shell/main_window.h"
#include "app/shell/sheets.h"

#include <QSettings>

#include <utility>

/// Runs to the goal of a walk, from the menu and from the walk's page.
namespace stone
{

namespace
{

/// As the menu has set it.
bool keepsRuns()
{
    return QSettings().value("keepRuns", false).toBool();
}

} // namespace

void MainWindow::followRuns()
{
    RunClock& clock = sheets_->runClock();
    connect(&clock, &RunClock::news, this, [this](const QString& words) {
        if (!sheets_->blindWalk().on()) {
            banner_->say(words);
        }
    });
    connect(&clock, &RunClock::reached, this, [this](double seconds, bool best) {
        const QString time = RunClock::clock(seconds);
        banner_->say(best ? tr("The goal, in %1: the best so far.").arg(time) : tr("The goal, in %1.").arg(time));
        if (playback_.takes().recording() && keepsRuns()) {
            playback_.takes().setRecording(false);
        }
    });
    // Lists and bench say where everything is.
    connect(&sheets_->blindWalk(), &BlindWalk::changed, this, [this] {
        const bool hides = sheets_->blindWalk().on() && sheets_->runClock().shown();
        if (hides && widthsBeforeRun_.isEmpty()) {
            widthsBeforeRun_ = columns_->sizes();
            columns_->setSizes({0, width(), 0});
        } else if (!hides && !widthsBeforeRun_.isEmpty()) {
            columns_->setSizes(std::exchange(widthsBeforeRun_, {}));
        }
        placeOverlays();
    });
    connect(bench_, &BenchPanel::runWanted, this, &MainWindow::runToGoal);
}

void MainWindow::runToGoal(bool blind)
{
    BlindWalk& walk = sheets_->blindWalk();
    if (walk.on()) {
        walk.end();
    }
    if (!sheets_->runClock().begin(playback_.walk())) {
        banner_->say(session_.level().zones.empty()
                         ? tr("A run needs a goal: draw a zone (Add › Zone), and choose it on the page of a walk.")
                         : tr("This walk has no goal: choose a zone as one on the walk's page."));
        return;
    }
    if (blind) {
        walk.begin();
    }
    if (keepsRuns() && !playback_.takes().recording()) {
        playback_.takes().setNote(blind ? tr("blind run") : tr("run"));
        playback_.takes().setRecording(true);
    }
    plan_->setFocus();
}

} // namespace stone
