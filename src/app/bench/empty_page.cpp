// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/empty_page.h"

#include "app/theme/labels.h"
#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

namespace stone
{

EmptyPage::EmptyPage(Session& session, Playback& playback, QWidget* parent)
    : Page(parent), session_(session), playback_(playback), next_(theme::heading({})), why_(new QLabel), keys_(new QLabel),
      first_(new QPushButton), second_(new QPushButton)
{
    setObjectName("emptyPage");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(18, 20, 18, 0);
    box->setSpacing(10);
    next_->setObjectName("nextStep");
    box->addWidget(next_);
    why_->setWordWrap(true);
    box->addWidget(why_);
    auto* acts = new QHBoxLayout;
    first_->setObjectName("nextFirst");
    second_->setObjectName("nextSecond");
    acts->addWidget(first_);
    acts->addWidget(second_);
    acts->addStretch();
    box->addLayout(acts);
    keys_->setWordWrap(true);
    keys_->setStyleSheet("color: " + theme::soft.name());
    box->addWidget(keys_);
    box->addStretch();
}

void EmptyPage::offer(QPushButton* button, const QString& text, const std::function<void()>& act)
{
    button->disconnect(this);
    button->setText(text);
    button->setVisible(!text.isEmpty());
    if (act) {
        connect(button, &QPushButton::clicked, this, act);
    }
}

void EmptyPage::refresh()
{
    const Level& level = session_.level();
    keys_->setText(
        tr("<br>Choose an emitter on the Plan or in the list to see why it sounds as it does, and to change it. To place a new "
           "one, drag a sound from <b>Sounds</b> onto the Plan, or drop sound files there.<br><br>") +
        (level.sideOn ? tr("<b>A D</b> walk, <b>W</b> jump, <b>Shift</b> faster<br>")
                      : tr("<b>W A S D</b> walk, <b>Q E</b> turn, <b>Shift</b> faster<br>")) +
        tr("<b>Space</b> listen · <b>1–9</b> saved places<br>") +
        (level.sideOn ? tr("<b>F</b> show all") : tr("<b>Page Up / Down</b> storeys · <b>F</b> show all")));
    offer(second_, {}, {});
    if (session_.project().sounds.empty()) {
        next_->setText(tr("Next: sounds"));
        why_->setText(tr(
            "Bring in the sounds of the level: WAV, FLAC, Ogg and others. Files that are dropped on the Plan are placed where "
            "they fall."));
        offer(first_, tr("Add sounds…"), [this] { emit addSoundsWanted(); });
    } else if (level.emitters.empty() && level.plants.empty()) {
        next_->setText(tr("Next: place a sound"));
        why_->setText(tr("Drag one from <b>Sounds</b> at the left to where it is to be heard from on the Plan."));
        offer(first_, {}, {});
    } else if (level.walks.empty()) {
        next_->setText(tr("Next: a walk"));
        why_->setText(
            tr("A walk is followed the same each time: it lets you hear what an edit changed, and is what gets rendered."));
        offer(first_, tr("Draw one"), [this] { emit drawWalkWanted(); });
        offer(second_, tr("Record while you walk"), [this] { playback_.setRecording(true); });
    } else if (!playback_.listening()) {
        next_->setText(tr("Next: listen"));
        why_->setText(tr("Walk through the level and hear it change, or follow a walk."));
        offer(first_, tr("Listen"), [this] { playback_.setListening(true); });
        offer(second_, tr("Follow the walk"), [this] { playback_.setWalking(true); });
    } else {
        next_->setText(tr("Nothing selected"));
        why_->setText({});
        offer(first_, {}, {});
    }
    why_->setVisible(!why_->text().isEmpty());
}

} // namespace stone
