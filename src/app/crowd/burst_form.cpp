// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/crowd/burst_form.h"

#include "app/session/walk_event_words.h"
#include "app/theme/labels.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QSignalBlocker>

#include <cmath>

namespace stone
{

namespace
{

// What an entry of the chooser is about: before its id.
const QString allPrefix = QStringLiteral("all:");
const QString emitterPrefix = QStringLiteral("emitter:");
const QString signalPrefix = QStringLiteral("signal:");
const QString useKey = QStringLiteral("use");

} // namespace

BurstForm::BurstForm(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), what_(new QComboBox), where_(new QComboBox),
      count_(new NumberField({}, rangeOf(&Burst::count), 0, 5)),
      every_(new NumberField("s", rangeOf(&Burst::every_s), 3, 0.02)), irregular_(new QCheckBox(tr("irregular"))),
      fire_(new QPushButton(tr("Fire"))), stop_(new QPushButton(tr("Stop"))), onWalk_(new QPushButton(tr("On the walk")))
{
    const Burst usual;
    what_->setObjectName("burstWhat");
    what_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    where_->setObjectName("burstWhere");
    where_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    where_->addItems({tr("its place"), tr("here"), tr("all round")});
    where_->setToolTip(tr("At the emitter, where you stand, or 2 to 8 m round that"));
    count_->setObjectName("burstCount");
    count_->present(usual.count);
    every_->setObjectName("burstEvery");
    every_->present(usual.every_s);
    every_->setToolTip(tr("From one to the next; irregular, in the mean"));
    irregular_->setObjectName("burstIrregular");
    irregular_->setToolTip(tr("Each comes on its own, now close together, now far apart"));
    fire_->setObjectName("burstFire");
    fire_->setToolTip(tr("Sets it off so often, now. Listening begins, if you do not"));
    stop_->setObjectName("burstStop");
    stop_->setToolTip(tr("Nothing more is set off"));
    onWalk_->setObjectName("burstOnWalk");
    onWalk_->setToolTip(tr("Puts it on the walk, at its time now: renders have it too"));
    for (QPushButton* button : {fire_, stop_, onWalk_}) {
        button->setAutoDefault(false);
    }
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    grid->addWidget(theme::caption(tr("Sets off"), what_), 0, 0, 1, 2);
    grid->addWidget(theme::caption(tr("Where it sounds"), where_), 0, 2);
    grid->addWidget(what_, 1, 0, 1, 2);
    grid->addWidget(where_, 1, 2);
    grid->addWidget(theme::caption(tr("How many"), count_), 2, 0);
    grid->addWidget(theme::caption(tr("One every"), every_), 2, 1);
    grid->addWidget(count_, 3, 0);
    grid->addWidget(every_, 3, 1);
    grid->addWidget(irregular_, 3, 2);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(fire_);
    buttons->addWidget(stop_);
    buttons->addWidget(onWalk_);
    buttons->addStretch();
    grid->addLayout(buttons, 4, 0, 1, 3);
    connect(fire_, &QPushButton::clicked, this, &BurstForm::fire);
    connect(stop_, &QPushButton::clicked, this, [this] {
        Burst none;
        none.count = 0;
        playback_.burst(none);
    });
    connect(onWalk_, &QPushButton::clicked, this, [this] {
        WalkEvent event;
        event.kind = WalkEvent::Kind::burst;
        event.burst = burst();
        putOnWalk(session_, playback_.walk(), std::move(event), playback_.walk_s());
    });
    connect(what_, &QComboBox::currentIndexChanged, this, [this] { where_->setEnabled(burst().of == Burst::Of::emitter); });
    connect(&session_, &Session::documentChanged, this, &BurstForm::rebuild);
    connect(&playback_, &Playback::walkChanged, this, &BurstForm::rebuild);
    rebuild();
}

void BurstForm::showSound(const SoundId& id)
{
    if (sound_ != id) {
        sound_ = id;
        shownOf_ = nullptr;
    }
    rebuild();
}

void BurstForm::showEvent(QShowEvent* event)
{
    QWidget::showEvent(event);
    rebuild();
}

void BurstForm::rebuild()
{
    // It is mostly hidden, and there may be thousands to choose from: then it waits until somebody looks.
    if (shownOf_ != session_.document() && isVisible()) {
        shownOf_ = session_.document();
        list();
    }
    onWalk_->setEnabled(session_.level().walks.find(playback_.walk()) != nullptr && what_->count() > 0);
}

/// All that can be fired, and what was chosen stays chosen.
void BurstForm::list()
{
    const Level& level = session_.level();
    const QString chosen = what_->currentData().toString();
    const QSignalBlocker quiet(what_);
    what_->clear();
    const auto add = [this](const QString& text, const QString& key) { what_->addItem(text, key); };
    if (sound_.empty()) {
        add(tr("use of what is near"), useKey);
        for (const auto& signal : session_.project().signalNames) {
            add(tr("signal %1").arg(QString::fromStdString(signal->name)),
                signalPrefix + QString::fromStdString(signal->id.text));
        }
    }
    std::vector<const Emitter*> players;
    for (const auto& emitter : level.emitters) {
        if (sound_.empty() ? !emitter->sound.empty() : emitter->sound == sound_) {
            players.push_back(emitter.get());
        }
    }
    if (!sound_.empty() && players.size() > 1) {
        add(tr("all %1 emitters in turn").arg(players.size()), allPrefix + QString::fromStdString(players[0]->id.text));
    }
    for (const Emitter* emitter : players) {
        add(QString::fromStdString(emitter->name), emitterPrefix + QString::fromStdString(emitter->id.text));
    }
    what_->setCurrentIndex(std::max(what_->findData(chosen), what_->count() > 0 ? 0 : -1));
    what_->setPlaceholderText(tr("no emitter plays it"));
    fire_->setEnabled(what_->count() > 0);
    where_->setEnabled(what_->count() > 0 && burst().of == Burst::Of::emitter);
}

Burst BurstForm::burst() const
{
    Burst burst;
    const QString key = what_->currentData().toString();
    if (key == useKey) {
        burst.of = Burst::Of::use;
    } else if (key.startsWith(signalPrefix)) {
        burst.of = Burst::Of::signal;
        burst.signal = {key.mid(signalPrefix.size()).toStdString()};
    } else {
        burst.allOfItsSound = key.startsWith(allPrefix);
        burst.emitter = {key.mid((burst.allOfItsSound ? allPrefix : emitterPrefix).size()).toStdString()};
        burst.where = static_cast<Burst::Where>(where_->currentIndex());
    }
    burst.count = static_cast<int>(std::lround(count_->value()));
    burst.every_s = every_->value();
    burst.irregular = irregular_->isChecked();
    return burst;
}

void BurstForm::fire()
{
    if (!playback_.listening()) {
        playback_.setListening(true);
    }
    playback_.burst(burst());
}

} // namespace stone
