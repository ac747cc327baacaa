// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/roamer_form.h"

#include <QPushButton>

namespace stone
{

namespace
{

/// Columns of the stops: the first three are the place.
constexpr int leg = 3;
constexpr double leastLeg_s = 0.01;

} // namespace

RoamerForm::RoamerForm(Session& session, Playback& playback)
    : EmitterForm(session, playback), words_(theme::caption({})),
      stops_(new CellTable("roamerStops", tr("Stops"),
                           {{tr("east"), tr("Metres; of the stop, from the level's origin"), 56},
                            {tr("north"), {}, 56},
                            {tr("height"), {}, 52},
                            {tr("reached in"), tr("Seconds from the stop before; empty: as the Roamer goes"), 66},
                            {tr("waits"), tr("Seconds; empty: as at each stop"), 44}})),
      round_(new QSlider(Qt::Horizontal))
{
    const auto seconds = [this](const QString& label, const char* name, double Roaming::*member, const QString& what,
                                const QString& help) {
        return part(label, &Emitter::roaming, member, {name, "s", what, help}, {1, 1});
    };
    words_->setWordWrap(true);
    box_->addWidget(words_);
    auto* draw = new QPushButton(tr("Draw stops"));
    draw->setObjectName("drawStops");
    draw->setToolTip(tr("Click stop after stop on the Plan; Enter or a double click ends it"));
    connect(draw, &QPushButton::clicked, this, &RoamerForm::drawWanted);
    row({labelled(tr("Order"), choice(
                                   "roamerOrder", tr("Order"), {tr("in turn"), tr("there and back"), tr("shuffled")},
                                   [](const Emitter& e) { return static_cast<int>(e.roaming.order); },
                                   [](Emitter& e, int index) { e.roaming.order = static_cast<Roaming::Order>(index); })),
         labelled(tr("After the last stop"),
                  choice(
                      "roamerEnd", tr("After the last stop"), {tr("travels back"), tr("starts over")},
                      [](const Emitter& e) { return static_cast<int>(e.roaming.roundEnd); },
                      [](Emitter& e, int index) { e.roaming.roundEnd = static_cast<Roaming::RoundEnd>(index); })),
         draw});
    allow(findChild<QWidget*>("roamerEnd"), [](const Emitter& e) {
        return e.roaming.order == Roaming::Order::inTurn ? QString() : tr("this order ends where it begins, or anywhere");
    });
    row({labelled(tr("It travels"), choice(
                                        "roamerBy", tr("It travels"), {tr("at a speed"), tr("each leg in a time")},
                                        [](const Emitter& e) { return e.roaming.byTime ? 1 : 0; },
                                        [](Emitter& e, int index) { e.roaming.byTime = index == 1; })),
         part(tr("Speed"), &Emitter::roaming, &Roaming::speed_m_s, {"roamerSpeed", "m/s", tr("speed %1 m/s"), {}}, {1, 0.5}),
         seconds(tr("Each leg"), "roamerLeg", &Roaming::leg_s, tr("each leg %1 s"), {})});
    allow(findChild<QWidget*>("roamerSpeed"),
          [](const Emitter& e) { return e.roaming.byTime ? tr("each leg takes its time") : QString(); });
    allow(findChild<QWidget*>("roamerLeg"),
          [](const Emitter& e) { return e.roaming.byTime ? QString() : tr("it goes at a speed"); });
    row({part(tr("Eases"), &Emitter::roaming, &Roaming::ease,
              {"roamerEase", "%", tr("eases %1 %"), tr("Share of a leg's time for setting off, and as much for slowing down")},
              {0, 5, 100}),
         seconds(tr("Waits at each stop"), "roamerWait", &Roaming::wait_s, tr("waits %1 s"), {}),
         seconds(tr("Between rounds"), "roamerPause", &Roaming::pause_s, tr("pauses %1 s"), tr("Pause after the last stop"))});
    auto* rounds = new NumberField({}, 0, 1'000'000, 0, 1);
    rounds->setObjectName("roamerRounds");
    rounds->setToolTip(tr("So many rounds, then it is over; 0: no end"));
    shows_.push_back([rounds](const Emitter& e) { rounds->present(e.roaming.rounds); });
    connect(rounds, &NumberField::valueEdited, this, [this](double value) {
        edit(tr("%1 rounds").arg(value), "roamerRounds", [&](Emitter& e) { e.roaming.rounds = static_cast<int>(value); });
    });
    connect(rounds, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    row({labelled(tr("Rounds (0: no end)"), rounds),
         seconds(tr("Round at least"), "roamerPeriod", &Roaming::period_s, tr("period %1 s"),
                 tr("A fixed time from round to round, if it takes no longer; 0: as long as it takes")),
         stacked({flag("roamerWalls", tr("round walls"), tr("Finds its way on the floor instead of going straight"),
                       [](Emitter& e) -> bool& { return e.roaming.aroundWalls; }),
                  flag("roamerOnlyMoving", tr("only on the way"), tr("Its sound is not heard while it stands"),
                       [](Emitter& e) -> bool& { return e.roaming.onlyMoving; })})});
    stops_->setFixedHeight(112);
    box_->addWidget(stops_);
    connect(stops_, &CellTable::typed, this, &RoamerForm::typeStop);
    head(tr("On arriving"));
    row({labelled(tr("Sound"), sound("roamerArriving", tr("On arriving"), tr("none"),
                                     [](Emitter& e) -> std::string& { return e.roaming.arriving.text; })),
         seconds(tr("After"), "roamerArrivingAfter", &Roaming::arrivingAfter_s, tr("arriving sound after %1 s"), {}),
         seconds(tr("For"), "roamerArrivingFor", &Roaming::arrivingFor_s, tr("arriving sound for %1 s"),
                 tr("0: as long as it is"))});
    row({part(
        tr("Its level"), &Emitter::roaming, &Roaming::arriving_db,
        {"roamerArrivingLevel", "dB", tr("arriving sound at %1 dB"), tr("Of the sound on arriving, beside the emitter's own")},
        {1, 1})});
    for (const char* name : {"roamerArrivingAfter", "roamerArrivingFor", "roamerArrivingLevel"}) {
        allow(findChild<QWidget*>(name),
              [](const Emitter& e) { return e.roaming.arriving.empty() ? tr("nothing sounds on arriving") : QString(); });
    }
    head(tr("Its round, ahead of time"));
    round_->setObjectName("roamerRound");
    round_->setAccessibleName(tr("Its round, ahead of time"));
    round_->setRange(0, 1000);
    box_->addWidget(round_);
    connect(round_, &QSlider::valueChanged, this, [this](int value) {
        const int index = session_.subjectIndex();
        const World& world = playback_.hearing().world();
        if (index >= 0 && thing()->kind == EmitterKind::roamer &&
            static_cast<std::size_t>(index) < world.level().emitters.size()) {
            emit previewed(world.routeOf(static_cast<std::uint32_t>(index)).round_s() * value / 1000.0);
        }
    });
    connect(round_, &QSlider::sliderReleased, this, [this] {
        const QSignalBlocker quiet(round_);
        round_->setValue(0);
        emit previewed(-1.0);
    });
}

void RoamerForm::refresh()
{
    EmitterForm::refresh();
    const Emitter* roamer = thing();
    const int index = session_.subjectIndex();
    if (roamer == nullptr || roamer->kind != EmitterKind::roamer || index < 0) {
        return;
    }
    const World& world = playback_.hearing().world();
    if (static_cast<std::size_t>(index) >= world.level().emitters.size()) {
        return;
    }
    const Route& route = world.routeOf(static_cast<std::uint32_t>(index));
    QString words =
        roamer->roaming.stops.size() < 2
            ? tr("It needs two stops to go anywhere: draw them on the Plan.")
            : tr("%1 stops; once round in %2.").arg(roamer->roaming.stops.size()).arg(theme::clock(route.round_s()));
    if (route.waysMissing() && session_.findingWays()) {
        words += tr(" Ways round walls are being looked for.");
    } else if (!route.blocked().empty()) {
        words += tr(" No way from stop %1 to %2: it goes straight through.")
                     .arg(route.blocked().front().first + 1)
                     .arg(route.blocked().front().second + 1);
    }
    words_->setText(words);
    showStops(*roamer);
}

void RoamerForm::showStops(const Emitter& roamer)
{
    std::vector<QStringList> rows;
    const auto maybe = [](const std::optional<double>& seconds) {
        return seconds ? CellTable::shortNumber(*seconds) : QString();
    };
    for (const Stop& stop : roamer.roaming.stops) {
        rows.push_back({CellTable::shortNumber(stop.at.x), CellTable::shortNumber(stop.at.y), CellTable::shortNumber(stop.at.z),
                        maybe(stop.leg_s), maybe(stop.wait_s)});
    }
    stops_->showRows(rows);
}

void RoamerForm::typeStop(int row, int column, const QString& text)
{
    const std::optional<double> number = CellTable::numberIn(text);
    const bool place = column < leg;
    const bool nothing = text.isEmpty() && !place; // as the Roamer does
    if ((!number && !nothing) || (!place && number && *number < (column == leg ? leastLeg_s : 0.0))) {
        refresh();
        return;
    }
    const QString what = place ? tr("stop %1 to %2 m").arg(row + 1).arg(text)
                               : (column == leg ? tr("stop %1 reached in %2 s") : tr("waits %2 s at stop %1"))
                                     .arg(QString::number(row + 1), nothing ? tr("the usual") : text);
    edit(what, {}, [&](Emitter& e) {
        Stop& stop = e.roaming.stops[static_cast<std::size_t>(row)];
        if (place) {
            stop.at[column] = *number;
        } else {
            (column == leg ? stop.leg_s : stop.wait_s) = number;
        }
    });
}

} // namespace stone
