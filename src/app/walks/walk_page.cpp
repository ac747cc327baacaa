// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/walks/walk_page.h"

#include "app/forms/names_of.h"
#include "world/walk_making.h"

#include <QGridLayout>
#include <QMenu>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

double length_m(const Walk& walk)
{
    double length = 0.0;
    for (std::size_t i = 1; i < walk.points.size(); ++i) {
        length += glm::length(walk.points[i].at - walk.points[i - 1].at);
    }
    return length;
}

} // namespace

WalkPage::WalkPage(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), facts_(new QLabel),
      speed_(new NumberField("m/s", rangeOf(&Character::speed_m_s), 2, 0.1)), eyes_(new QComboBox),
      points_(
          new CellTable("walkPoints", tr("Points of the walk"),
                        {{tr("at s"), tr("When one comes here, seconds from the beginning; what is later moves along"), 46},
                         {tr("m/s"), tr("How fast one goes on from here"), 36},
                         {tr("stay s"), tr("For how long one stays here"), 36},
                         {tr("east"), tr("Metres"), 44},
                         {tr("north"), tr("Metres"), 44},
                         {tr("up"), tr("Of the feet, metres"), 36},
                         {tr("look °"), tr("Where one looks here, degrees clockwise from north; empty: along the way"), 36}}))
{
    setObjectName("walkPage");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    auto* name = words("walkName", tr("Name"), [](Walk& w) -> std::string& { return w.name; });
    name->setFont(theme::text(12, QFont::Bold));
    box->addWidget(name);
    auto* what =
        theme::caption(tr("Walk: a way through the level that is followed the same each time, and rendered. Drag its points on "
                          "the Plan; a double click on the way adds one, on a point takes it away."));
    what->setWordWrap(true);
    box->addWidget(what);
    facts_->setObjectName("walkFacts");
    facts_->setWordWrap(true);
    box->addWidget(facts_);

    auto* acts = new QGridLayout;
    acts->setHorizontalSpacing(6);
    acts->setVerticalSpacing(4);
    acts->addWidget(button("walkFollow", tr("Follow"), tr("Listens along it from its beginning"),
                           [this] {
                               playback_.setWalking(false);
                               playback_.seekWalk(0.0);
                               playback_.setWalking(true);
                           }),
                    0, 0);
    acts->addWidget(button("walkTurnRound", tr("Turn round"), tr("Walks it from its end to its beginning"),
                           [this] { edit(tr("turned round"), {}, [](Walk& w) { w = turnedRound(std::move(w)); }); }),
                    0, 1);
    acts->addWidget(
        button("walkDouble", tr("Double"), tr("Another walk like this one"), [this] { session_.duplicateSelected(); }), 0, 2);
    acts->addWidget(button("walkAlong", tr("Look along"), tr("Forgets where one looks: the eyes follow the way"),
                           [this] {
                               edit(tr("looks along the way"), {}, [](Walk& w) {
                                   for (WalkPoint& point : w.points) {
                                       point.heading_deg.reset();
                                       point.pitch_deg = 0.0;
                                   }
                               });
                           }),
                    1, 0);
    acts->addWidget(button("walkPace", tr("Even pace"), tr("Walks every leg as fast as the character goes"),
                           [this] {
                               const double speed = session_.level().character.speed_m_s;
                               edit(tr("all of it at %1 m/s").arg(speed, 0, 'f', 2), {},
                                    [speed](Walk& w) { w = withSpeed(std::move(w), speed); });
                           }),
                    1, 1);
    acts->addWidget(
        button("walkDelete", tr("Delete"), tr("Takes the walk out of the level"), [this] { session_.deleteSelected(); }), 1, 2);
    speed_->setObjectName("walkSpeed");
    speed_->setToolTip(tr("How fast one goes on all legs; what is shown is the mean of those on which one moves"));
    connect(speed_, &NumberField::valueEdited, this, [this](double speed) {
        edit(tr("all of it at %1 m/s").arg(speed, 0, 'f', 2), "walkSpeed",
             [speed](Walk& w) { w = withSpeed(std::move(w), speed); });
    });
    connect(speed_, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    acts->addWidget(labelled(tr("Goes at"), speed_), 2, 0);
    eyes_->setObjectName("walkEyes");
    eyes_->setToolTip(tr("Turns the eyes to a thing all the way, with as many points as it takes. Look along undoes it"));
    eyes_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(eyes_, &QComboBox::activated, this, [this](int index) {
        const Emitter* thing = session_.level().emitters.find({eyes_->itemData(index).toString().toStdString()});
        if (thing != nullptr) {
            const double eyes_m = session_.level().character.earsHeight_m;
            edit(tr("eyes on %1").arg(QString::fromStdString(thing->name)), {},
                 [&](Walk& w) { w = withEyesOn(std::move(w), thing->at, eyes_m); });
        }
        eyes_->setCurrentIndex(0);
    });
    acts->addWidget(labelled(tr("Keeps the eyes on"), eyes_), 2, 1, 1, 2);
    for (int column = 0; column < 3; ++column) {
        acts->setColumnStretch(column, 1);
    }
    box->addLayout(acts);

    box->addWidget(runFields());
    points_->setMinimumHeight(200);
    connect(points_, &CellTable::typed, this, &WalkPage::cellEdited);
    connect(points_, &QTableWidget::currentCellChanged, this, [this](int row) {
        const Walk* walk = thing();
        if (walk != nullptr && points_->hasFocus() && row >= 0 && static_cast<std::size_t>(row) < walk->points.size() &&
            !playback_.walking()) {
            playback_.seekWalk(walk->points[static_cast<std::size_t>(row)].t_s);
        }
    });
    box->addWidget(points_, 1);
}

/// A list of all zones in which those that are chosen are ticked.
QPushButton* WalkPage::zonesButton(const char* name, const QString& label, const QString& help,
                                   std::vector<ZoneId> GoalRun::*zones)
{
    auto* box = new QPushButton;
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->setToolTip(help);
    box->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    const auto isChosen = [](const std::vector<ZoneId>& chosen, const ZoneId& id) {
        return std::find(chosen.begin(), chosen.end(), id) != chosen.end();
    };
    shows_.push_back([this, box, zones, isChosen](const Walk& w) {
        QStringList names;
        for (const auto& zone : session_.level().zones) {
            if (isChosen(w.run.*zones, zone->id)) {
                names << QString::fromStdString(zone->name);
            }
        }
        box->setText(names.isEmpty() ? tr("none") : names.join(", "));
    });
    auto* menu = new QMenu(box);
    box->setMenu(menu);
    connect(menu, &QMenu::aboutToShow, this, [this, menu, label, zones, isChosen] {
        menu->clear();
        for (const auto& zone : session_.level().zones) {
            const QString called = QString::fromStdString(zone->name);
            QAction* action = menu->addAction(called);
            action->setCheckable(true);
            action->setChecked(thing() != nullptr && isChosen(thing()->run.*zones, zone->id));
            connect(action, &QAction::triggered, this, [this, label, called, zones, id = zone->id](bool in) {
                edit((in ? tr("%1 with %2") : tr("%1 without %2")).arg(label.toLower(), called), {}, [&](Walk& w) {
                    std::erase(w.run.*zones, id);
                    if (in) {
                        (w.run.*zones).push_back(id);
                    }
                });
            });
        }
    });
    return box;
}

/// What makes the walk a run.
QWidget* WalkPage::runFields()
{
    auto* part = new QWidget;
    auto* grid = new QGridLayout(part);
    grid->setContentsMargins(0, 4, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    const auto zonesHere = [this] { return namesOf(session_.level().zones); };
    const auto signalsHere = [this] { return namesOf(session_.project().signalNames); };
    auto* goal = reference("runGoal", tr("Goal"), tr("it is no run"), zonesHere,
                           [](Walk& w) -> std::string& { return w.run.goal.text; });
    goal->setToolTip(tr("A zone: whoever begins where the walk does and comes there, by whichever way, has run it"));
    grid->addWidget(labelled(tr("Run to the goal"), goal), 0, 0);
    auto* checkpoints = zonesButton("runCheckpoints", tr("Checkpoints"), tr("Whoever came through one is put back there"),
                                    &GoalRun::checkpoints);
    grid->addWidget(labelled(tr("Checkpoints"), checkpoints), 0, 1);
    auto* pits = zonesButton("runPits", tr("Pits"), tr("Whoever is in one is put back"), &GoalRun::pits);
    grid->addWidget(labelled(tr("Pits"), pits), 0, 2);
    auto* fall = number(
        {"runFall", "m", tr("a fall of %1 m puts back"), tr("Whoever falls as deep is put back; 0: falls do not matter")},
        NumberSteps{1, 0.5}.over(rangeOf(&GoalRun::fall_m)), [](Walk& w) -> double& { return w.run.fall_m; });
    grid->addWidget(labelled(tr("Falls from"), fall), 1, 0);
    const struct {
        const char* name;
        QString label;
        SignalId GoalRun::*signal;
    } sent[] = {{"runOnFall", tr("Sends at a fall"), &GoalRun::onFall},
                {"runOnCheckpoint", tr("at a checkpoint"), &GoalRun::onCheckpoint},
                {"runOnGoal", tr("at the goal"), &GoalRun::onGoal}};
    std::vector<QWidget*> ofRuns{checkpoints, pits, fall};
    int cell = 1;
    for (const auto& each : sent) {
        auto* field = reference(each.name, each.label, tr("nothing"), signalsHere,
                                [which = each.signal](Walk& w) -> std::string& { return (w.run.*which).text; });
        field->setToolTip(tr("A signal that starts what is to be heard then"));
        grid->addWidget(labelled(each.label, field), 1 + cell / 3, cell % 3);
        ofRuns.push_back(field);
        ++cell;
    }
    ofRuns.push_back(
        button("runSeeing", tr("Run it"),
               tr("Puts you where the walk begins, with the level as it begins; the clock runs from your first step"),
               [this] { emit runWanted(false); }));
    ofRuns.push_back(button("runBlind", tr("Run it blind"), tr("The same with nothing but a compass, the clock and your ears"),
                            [this] { emit runWanted(true); }));
    grid->addWidget(ofRuns[ofRuns.size() - 2], 2, 1, Qt::AlignBottom);
    grid->addWidget(ofRuns.back(), 2, 2, Qt::AlignBottom);
    for (QWidget* widget : ofRuns) {
        allow(widget, [](const Walk& w) { return w.run.goal.empty() ? tr("it has no goal") : QString(); });
    }
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return part;
}

void WalkPage::edit(const QString& what, const QString& gesture, const std::function<void(Walk&)>& change)
{
    session_.editThing<Walk>(what, gesture, change);
}

void WalkPage::refresh()
{
    ThingForm::refresh();
    const Walk* walk = thing();
    if (walk == nullptr) {
        return;
    }
    if (playback_.walk() != walk->id) {
        playback_.chooseWalk(walk->id);
    }
    fillEyes();
    double moving_s = 0.0;
    for (std::size_t i = 1; i < walk->points.size(); ++i) {
        moving_s += legSpeed_m_s(*walk, i - 1) > 0.0 ? walk->points[i].t_s - walk->points[i - 1].t_s : 0.0;
    }
    speed_->present(moving_s > 0.0 ? length_m(*walk) / moving_s : session_.level().character.speed_m_s);
    facts_->setText(tr("%1 in %2 s, %3, and %4.")
                        .arg(theme::metres(length_m(*walk)))
                        .arg(walk->seconds(), 0, 'f', 1)
                        .arg(tr("%n points", nullptr, static_cast<int>(walk->points.size())))
                        .arg(walk->events.empty()
                                 ? tr("nothing happens on it")
                                 : tr("%n things happen on it", nullptr, static_cast<int>(walk->events.size()))));
    const auto now = session_.level().walks.share(walk->id);
    if (now == shown_) {
        return;
    }
    shown_ = now;
    std::vector<QStringList> rows;
    for (std::size_t i = 0; i < walk->points.size(); ++i) {
        rows.push_back(rowOf(i, *walk));
    }
    points_->showRows(rows);
}

void WalkPage::fillEyes()
{
    const QSignalBlocker quiet(eyes_);
    eyes_->clear();
    eyes_->addItem(tr("choose a thing…"));
    for (const auto& emitter : session_.level().emitters) {
        if (isOnPlan(*emitter)) {
            eyes_->addItem(QString::fromStdString(emitter->name), QString::fromStdString(emitter->id.text));
        }
    }
}

QStringList WalkPage::rowOf(std::size_t i, const Walk& walk)
{
    const auto& shortNumber = CellTable::shortNumber;
    const WalkPoint& point = walk.points[i];
    const double speed = legSpeed_m_s(walk, i);
    const double stay = i > 0 && glm::length(walk.points[i - 1].at - point.at) < 1e-3 ? 0.0 : stay_s(walk, i);
    return {shortNumber(point.t_s),
            speed > 0.0 ? shortNumber(speed) : QString(),
            stay > 0.0 ? shortNumber(stay) : QString(),
            shortNumber(point.at.x),
            shortNumber(point.at.y),
            shortNumber(point.at.z),
            point.heading_deg ? QString::number(std::round(*point.heading_deg)) : QString()};
}

void WalkPage::cellEdited(int row, int column, const QString& text)
{
    const Walk* walk = thing();
    const auto i = static_cast<std::size_t>(row);
    if (walk == nullptr || i >= walk->points.size()) {
        return;
    }
    const std::optional<double> typed = CellTable::numberIn(text);
    const QString point = tr("point %1").arg(row + 1);
    shown_.reset(); // what is not taken is shown again as it was
    if (column == looksColumn && text.isEmpty()) {
        edit(tr("%1 looks along the way").arg(point), {}, [i](Walk& w) { w.points[i].heading_deg.reset(); });
    } else if (column == stayColumn && (text.isEmpty() || typed)) {
        const double seconds = typed.value_or(0.0);
        edit(tr("stays %1 s at %2").arg(seconds).arg(point), {}, [&](Walk& w) { w = withStay(std::move(w), i, seconds); });
    } else if (typed && column == timeColumn && i > 0) {
        const double leg_s = *typed - walk->points[i - 1].t_s;
        edit(tr("%1 at %2 s").arg(point).arg(*typed), {}, [&](Walk& w) { w = withLegTime(std::move(w), i - 1, leg_s); });
    } else if (typed && column == speedColumn && *typed > 0.0) {
        edit(tr("%1 m/s from %2 on").arg(*typed).arg(point), {}, [&](Walk& w) { w = withLegSpeed(std::move(w), i, *typed); });
    } else if (typed && column >= eastColumn && column <= heightColumn) {
        Vec3 at = walk->points[i].at;
        at[column - eastColumn] = *typed;
        edit(tr("%1 moved").arg(point), {}, [&](Walk& w) { w = withPointAt(std::move(w), i, at); });
    } else if (typed && column == looksColumn) {
        edit(tr("%1 looks to %2°").arg(point).arg(*typed), {}, [&](Walk& w) { w.points[i].heading_deg = wrapDegrees(*typed); });
    }
    refresh();
}

void WalkPage::follow()
{
    const Walk* walk = thing();
    if (walk == nullptr || !playback_.walking()) {
        return;
    }
    const auto after = std::upper_bound(walk->points.begin(), walk->points.end(), playback_.walk_s(),
                                        [](double t, const WalkPoint& point) { return t < point.t_s; });
    points_->setCurrentCell(std::max(0, static_cast<int>(after - walk->points.begin()) - 1), points_->currentColumn());
}

} // namespace stone
