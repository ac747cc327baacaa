// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/sheets.h"

namespace stone
{

Sheets::Sheets(Session& session, Playback& playback, QWidget* parent)
    : QStackedWidget(parent), session_(session), playback_(playback), blind_(session, playback), run_(session, playback),
      splitter_(new QSplitter(Qt::Vertical)), plan_(new PlanView(session, playback)),
      section_(new SectionView(session, playback)), strata_(new StrataPanel(session, playback)),
      cover_(new BlindCover(blind_, run_, playback))
{
    splitter_->addWidget(plan_);
    splitter_->addWidget(section_);
    splitter_->addWidget(strata_);
    splitter_->setStretchFactor(0, 1);
    splitter_->setCollapsible(0, false);
    splitter_->setHandleWidth(1);
    section_->hide();
    strata_->hide();
    addWidget(splitter_);
    addWidget(cover_);
    plan_->showBlindWalk(blind_);
    banner_ = new RunBanner(run_, this);
    // At the goal one sees where one went.
    connect(&run_, &RunClock::reached, &blind_, &BlindWalk::end);
    connect(&blind_, &BlindWalk::changed, this, [this] {
        setCurrentIndex(blind_.on() ? 1 : 0);
        banner_->hideFor(blind_.on()); // the cover has a clock of its own
        plan_->setFocus();
    });
}

bool Sheets::show(Shown what)
{
    if (what != Shown::plan && eyes_ == nullptr) {
        if (!EyesView::available()) {
            return false;
        }
        eyes_ = new EyesView(session_, playback_);
        splitter_->insertWidget(0, eyes_);
        // The first such view makes the window's surface anew: what was typed into goes on being typed into.
        window()->activateWindow();
    }
    shown_ = what;
    if (eyes_ != nullptr) {
        eyes_->setVisible(what != Shown::plan);
    }
    plan_->setVisible(what != Shown::eyes);
    if (what == Shown::both) {
        splitter_->setSizes({height() / 2, height() / 2, 0, 0});
    }
    emit arranged();
    return true;
}

QWidget* Sheets::host()
{
    return shown_ == Shown::plan ? plan_ : static_cast<QWidget*>(eyes_);
}

} // namespace stone
