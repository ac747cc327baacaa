// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/bench_panel.h"

#include "app/bench/emitter_page.h"
#include "app/bench/empty_page.h"
#include "app/bench/ledger_foot.h"
#include "app/bench/pages.h"
#include "app/ears/rig_page.h"
#include "app/gaze/gaze_page.h"
#include "app/levels/level_page.h"
#include "app/sounds/sound_page.h"

#include <QFrame>
#include <QScrollBar>
#include <QVBoxLayout>

#include <algorithm>

namespace stone
{

namespace
{

QScrollArea* scrolled(QWidget* content)
{
    auto* scroll = new QScrollArea;
    scroll->setAccessibleName(QObject::tr("Bench"));
    scroll->setWidget(content);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFrameShape(QFrame::NoFrame);
    return scroll;
}

} // namespace

BenchPanel::BenchPanel(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), stack_(new QStackedWidget), foot_(new LedgerFoot(session, playback)),
      pages_(makePages(session, playback))
{
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    box->addWidget(stack_, 1);
    box->addWidget(foot_);
    for (Page* page : pages_) {
        stack_->addWidget(scrolled(page));
        connect(page, &Page::backWanted, this, [this] { showGuest(nullptr); });
        connect(page, &Page::drawWanted, this, &BenchPanel::drawWanted);
        connect(page, &Page::runWanted, this, &BenchPanel::runWanted);
        connect(page, &Page::fitWanted, this, &BenchPanel::fitWanted);
        connect(page, &Page::decayWanted, this, &BenchPanel::decayWanted);
        connect(page, &Page::compareWanted, this, &BenchPanel::compareWanted);
        connect(page, &Page::levelWanted, this, &BenchPanel::levelWanted);
        connect(page, &Page::sideChosen, this, &BenchPanel::sideChosen);
        connect(page, &Page::previewed, this, &BenchPanel::previewed);
    }
    connect(page<EmitterPage>(), &EmitterPage::soundWanted, this, &BenchPanel::showSound);
    connect(page<EmptyPage>(), &EmptyPage::addSoundsWanted, this, &BenchPanel::addSoundsWanted);
    connect(page<EmptyPage>(), &EmptyPage::drawWalkWanted, this, &BenchPanel::drawWalkWanted);

    connect(&session_, &Session::selectionChanged, this, &BenchPanel::selectionChanged);
    connect(&playback, &Playback::listeningChanged, this, &BenchPanel::refresh);
    connect(&playback, &Playback::sceneChanged, this, &BenchPanel::refresh);
    connect(&playback, &Playback::moved, this, [this] {
        pageNow()->follow();
        foot_->refresh();
    });
    for (const auto signal : {&Session::documentChanged, &Session::soundsChanged, &Session::waysFound}) {
        connect(&session_, signal, this, &BenchPanel::refresh);
    }
    refresh();
}

template <class Wanted> Wanted* BenchPanel::page() const
{
    for (Page* page : pages_) {
        if (auto* found = qobject_cast<Wanted*>(page)) {
            return found;
        }
    }
    return nullptr;
}

/// What was asked for, else the page of what is on the bench.
Page* BenchPanel::pageNow() const
{
    if (guest_ != nullptr) {
        return guest_;
    }
    if (session_.pinned()) {
        return page<EmitterPage>();
    }
    return *std::find_if(pages_.begin(), pages_.end(), [](const Page* page) { return page->isOfSelection(); });
}

void BenchPanel::refresh()
{
    auto* sound = page<SoundPage>();
    if (guest_ == sound && session_.project().sounds.find(sound->sound()) == nullptr) {
        guest_ = nullptr;
    }
    Page* now = pageNow();
    stack_->setCurrentIndex(static_cast<int>(std::find(pages_.begin(), pages_.end(), now) - pages_.begin()));
    now->refresh();
    foot_->refresh();
}

/// Another thing begins at the top of its page. Gazes stay: who sets them up looks at one thing after the other.
void BenchPanel::selectionChanged()
{
    const Page* before = pageNow();
    if (guest_ != page<GazePage>()) {
        guest_ = nullptr;
    }
    refresh();
    if (pageNow() != before || !session_.pinned()) {
        static_cast<QScrollArea*>(stack_->currentWidget())->verticalScrollBar()->setValue(0);
    }
}

void BenchPanel::showGuest(Page* guest)
{
    guest_ = guest;
    refresh();
}

void BenchPanel::showSound(const SoundId& id)
{
    page<SoundPage>()->showSound(id);
    showGuest(session_.pinned() ? nullptr : page<SoundPage>());
}

void BenchPanel::showGaze(bool on)
{
    showGuest(on ? page<GazePage>() : nullptr);
}

void BenchPanel::showRig(bool on)
{
    showGuest(on ? page<RigPage>() : nullptr);
}

void BenchPanel::showLevel(bool on)
{
    showGuest(on ? page<LevelPage>() : nullptr);
}

void BenchPanel::compare()
{
    page<EmitterPage>()->compare();
}

} // namespace stone
