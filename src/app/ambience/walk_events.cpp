// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/walk_events.h"

#include "app/forms/rebuilt.h"
#include "app/session/walk_event_words.h"
#include "app/theme/labels.h"
#include "app/widgets/number_field.h"

#include <QGridLayout>
#include <QToolButton>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace stone
{

WalkEvents::WalkEvents(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), title_(new QLabel), list_(new QWidget)
{
    setObjectName("walkEvents");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    title_->setFont(theme::text(9.5, QFont::Bold));
    box->addWidget(title_);
    box->addWidget(list_);
    connect(&session_, &Session::documentChanged, this, &WalkEvents::rebuild);
    connect(&playback_, &Playback::walkChanged, this, &WalkEvents::rebuild);
    rebuild();
}

void WalkEvents::add(WalkEvent event)
{
    putOnWalk(session_, playback_.walk(), std::move(event), playback_.walk_s());
}

void WalkEvents::rebuild()
{
    if (shownOf_ == session_.document() && shown_ == playback_.walk()) {
        return;
    }
    shownOf_ = session_.document();
    shown_ = playback_.walk();
    rebuilt(list_, [this] { build(); });
}

void WalkEvents::build()
{
    auto* grid = new QGridLayout(list_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setVerticalSpacing(2);
    grid->setColumnStretch(1, 1);
    grid->setColumnMinimumWidth(0, 90);
    title_->setText(walk() != nullptr ? tr("On the walk %1").arg(QString::fromStdString(walk()->name)) : tr("On the walk"));
    if (walk() == nullptr || walk()->events.empty()) {
        auto* none = theme::explained(walk() == nullptr
                                          ? tr("There is no walk in this level yet.")
                                          : tr("Nothing yet. The ⋯ beside a signal or a value puts it where the walk is now."));
        grid->addWidget(none, 0, 0, 1, 3);
        return;
    }
    int row = 0;
    for (std::size_t i = 0; i < walk()->events.size(); ++i, ++row) {
        const WalkEvent& event = walk()->events[i];
        const QString what = eventText(session_.project(), session_.level(), event);
        auto* time = new NumberField("s", 0, std::max(walk()->seconds(), event.t_s), 1, 0.5);
        time->setObjectName(QString("eventTime%1").arg(i));
        time->setAccessibleName(tr("Time of: %1").arg(what));
        time->present(event.t_s);
        connect(time, &NumberField::valueEdited, this, [this, i, what](double to) {
            changeEvents(session_, shown_, tr("%1 at %2").arg(what, theme::clock(to)), QString("event %1").arg(i),
                         [&](std::vector<WalkEvent>& events) { events[i].t_s = to; });
        });
        connect(time, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
        auto* remove = new QToolButton;
        remove->setObjectName(QString("eventRemove%1").arg(i));
        remove->setText(QStringLiteral("×"));
        remove->setToolTip(tr("Take this off the walk"));
        remove->setAccessibleName(tr("Take off the walk: %1").arg(what));
        connect(remove, &QToolButton::clicked, this, [this, i, what] {
            changeEvents(session_, shown_, tr("not %1").arg(what), {}, [&](std::vector<WalkEvent>& events) {
                events.erase(events.begin() + static_cast<std::ptrdiff_t>(i));
            });
        });
        grid->addWidget(time, row, 0);
        grid->addWidget(new QLabel(what), row, 1);
        grid->addWidget(remove, row, 2);
        if (event.kind == WalkEvent::Kind::burst) {
            grid->addLayout(burstFields(i, event.burst, what), ++row, 1, 1, 2);
        }
    }
}

/// How many and how often: what a burst that is there is tuned by.
QHBoxLayout* WalkEvents::burstFields(std::size_t index, const Burst& burst, const QString& what)
{
    auto* count = new NumberField({}, rangeOf(&Burst::count), 0, 5);
    count->setObjectName(QString("eventCount%1").arg(index));
    count->setAccessibleName(tr("How many: %1").arg(what));
    count->present(burst.count);
    auto* every = new NumberField("s", rangeOf(&Burst::every_s), 3, 0.02);
    every->setObjectName(QString("eventEvery%1").arg(index));
    every->setAccessibleName(tr("One every: %1").arg(what));
    every->present(burst.every_s);
    const auto change = [this, index](const QString& said, const std::function<void(Burst&)>& how) {
        changeEvents(session_, shown_, said, QString("burst %1").arg(index),
                     [&](std::vector<WalkEvent>& events) { how(events[index].burst); });
    };
    connect(count, &NumberField::valueEdited, this, [change](double to) {
        change(tr("a burst of %1").arg(to), [to](Burst& b) { b.count = static_cast<int>(std::lround(to)); });
    });
    connect(every, &NumberField::valueEdited, this,
            [change](double to) { change(tr("a burst's every %1 s").arg(to), [to](Burst& b) { b.every_s = to; }); });
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    for (NumberField* field : {count, every}) {
        connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
        row->addWidget(theme::caption(field == count ? tr("how many") : tr("one every"), field));
        row->addWidget(field);
    }
    row->addStretch();
    return row;
}

} // namespace stone
