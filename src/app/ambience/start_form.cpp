// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/start_form.h"

#include "app/forms/rebuilt.h"

#include <QMenu>
#include <QPushButton>
#include <QToolButton>

namespace stone
{

namespace
{

constexpr double usuallyNear_m = 5.0;

QPushButton* link(const QString& text, const QString& name)
{
    auto* button = new QPushButton(text);
    button->setProperty("link", true);
    button->setObjectName(name);
    button->setFont(theme::text(8));
    return button;
}

QToolButton* remover(const QString& what)
{
    auto* button = new QToolButton;
    button->setText(QStringLiteral("×"));
    button->setToolTip(QObject::tr("Take this out"));
    button->setAccessibleName(QObject::tr("Take out: %1").arg(what));
    return button;
}

} // namespace

StartForm::StartForm(Session& session, Playback& playback) : EmitterForm(session, playback), conditions_(new QWidget)
{
    triggers_.reserve(3);
    addTriggers(tr("Starts"), tr("nothing starts it"), &Starting::starts, "addStart");
    addTriggers(tr("Stops"), tr("runs until it is over"), &Starting::stops, "addStop");
    auto* title = new QHBoxLayout;
    title->addWidget(theme::caption(tr("Only when")));
    title->addStretch();
    auto* add = link(tr("add"), "addCondition");
    add->setToolTip(tr("A game value must be high or low enough"));
    title->addWidget(add);
    box_->addLayout(title);
    box_->addWidget(conditions_);
    connect(add, &QPushButton::clicked, this, [this] {
        if (session_.project().gameValues.empty()) {
            return;
        }
        const GameValueId value = session_.project().gameValues[0]->id;
        edit(tr("one condition more"), {}, [&](Emitter& e) {
            e.starting.conditions.push_back({value, Comparison::atLeast, 0.5});
        });
    });
    row({labelled(tr("A second start"),
                  choice(
                      "startSecond", tr("A second start"),
                      {tr("starts anew"), tr("pauses, goes on"), tr("stops it"), tr("does nothing"), tr("adds a copy")},
                      [](const Emitter& e) { return static_cast<int>(e.starting.second); },
                      [](Emitter& e, int index) { e.starting.second = static_cast<SecondStart>(index); })),
         labelled(tr("It plays"), choice(
                                      "startRounds", tr("It plays"), {tr("as the sound does"), tr("looped"), tr("once")},
                                      [](const Emitter& e) { return static_cast<int>(e.starting.rounds); },
                                      [](Emitter& e, int index) { e.starting.rounds = static_cast<Rounds>(index); }))});
    row({part(tr("Hold-off"), &Emitter::starting, &Starting::holdOff_s,
              {"startHoldOff", "s", tr("hold-off %1 s"), tr("Shortest time between two starts")}, {1, 0.5}),
         part(tr("Fades out over"), &Emitter::starting, &Starting::fadeOut_s,
              {"startFade", "s", tr("fades out over %1 s"), tr("When it is stopped")}, {2, 0.1}),
         flag("startOnce", tr("once only"), tr("The first start counts, until something re-arms it"),
              [](Emitter& e) -> bool& { return e.starting.once; })});
    auto* rearming = new QWidget;
    auto* outer = std::exchange(box_, new QVBoxLayout(rearming));
    box_->setContentsMargins(0, 0, 0, 0);
    addTriggers(tr("Re-armed"), tr("nothing re-arms it"), &Starting::rearms, "addRearm");
    box_ = outer;
    box_->addWidget(rearming);
    showWhen(rearming, [](const Emitter& e) { return e.starting.once; });
    head(tr("Rides on"));
    row({labelled(tr("Carrier"), choice(
                                     "ridesOn", tr("Rides on"),
                                     {tr("nothing"), tr("the character"), tr("a Roamer"), tr("a part of the level"),
                                      tr("a thing of the game")},
                                     [](const Emitter& e) { return static_cast<int>(e.riding.on); },
                                     [](Emitter& e, int index) { e.riding.on = static_cast<Riding::On>(index); })),
         labelled(tr("Which"), reference(
                                   "ridesWhich", tr("Which"), tr("choose one"),
                                   [this] { return carriers(thing() != nullptr ? thing()->riding.on : Riding::On::nothing); },
                                   [](Emitter& e) -> std::string& {
                                       return e.riding.on == Riding::On::node ? e.riding.node : e.riding.roamer.text;
                                   })),
         flag("ridesTurns", tr("turns along"),
              tr("Its place and its front turn with what carries it; otherwise they keep the compass"),
              [](Emitter& e) -> bool& { return e.riding.turnsAlong; })});
    auto* thing = new QWidget;
    auto* named = new QHBoxLayout(thing);
    named->setContentsMargins(0, 0, 0, 0);
    named->addWidget(labelled(tr("Its name in the game"), words("ridesThing", tr("Its name in the game"),
                                                                [](Emitter& e) -> std::string& { return e.riding.thing; })));
    thing->setToolTip(
        tr("Under which a game that is listened along to tells where it is. Until it does, it stays where it is put"));
    box_->addWidget(thing);
    showWhen(thing, [](const Emitter& e) { return e.riding.on == Riding::On::game; });
    allow(findChild<QWidget*>("ridesWhich"), [](const Emitter& e) {
        const bool some = e.riding.on == Riding::On::roamer || e.riding.on == Riding::On::node;
        return some ? QString() : tr("there is nothing to choose");
    });
    allow(findChild<QWidget*>("ridesTurns"),
          [](const Emitter& e) { return e.riding.on == Riding::On::nothing ? tr("it rides on nothing") : QString(); });
}

QString StartForm::whatOf(const Trigger& trigger) const
{
    const Zone* zone = session_.level().zones.find(trigger.zone);
    const QString where = zone != nullptr ? QString::fromStdString(zone->name) : tr("a zone that is gone");
    const Signal* signal = session_.project().signalNames.find(trigger.signal);
    switch (trigger.cause) {
    case Cause::level: return tr("with the level");
    case Cause::enter: return tr("on entering %1").arg(where);
    case Cause::leave: return tr("on leaving %1").arg(where);
    case Cause::signal:
        return tr("on the signal %1").arg(signal != nullptr ? QString::fromStdString(signal->name) : tr("that is gone"));
    case Cause::interact: return tr("when used within %1 (key I)").arg(theme::metres(trigger.within_m));
    case Cause::near: return tr("on coming within %1").arg(theme::metres(trigger.within_m));
    case Cause::far: return tr("on going further than %1").arg(theme::metres(trigger.within_m));
    case Cause::jump: return tr("when the character jumps");
    case Cause::land: return tr("when the character lands");
    case Cause::fall: return tr("when the character falls");
    case Cause::reset: return tr("when the character is put back");
    }
    return {};
}

void StartForm::addTriggers(const QString& title, const QString& none, std::vector<Trigger> Starting::*member, const char* name)
{
    auto* line = new QHBoxLayout;
    line->addWidget(theme::caption(title));
    line->addStretch();
    auto* add = link(tr("add"), name);
    line->addWidget(add);
    box_->addLayout(line);
    auto* list = new QWidget;
    list->setObjectName(QString(name) + "List");
    list->setAccessibleDescription(none);
    box_->addWidget(list);
    triggers_.push_back({member, list, {}, false});
    auto* menu = new QMenu(add);
    menu->setObjectName(QString(name) + "Menu");
    add->setMenu(menu);
    connect(menu, &QMenu::aboutToShow, this, [this, menu, member] {
        menu->clear();
        const auto offer = [&](QMenu* in, const QString& text, const Trigger& trigger) {
            connect(in->addAction(text), &QAction::triggered, this, [this, member, trigger] {
                edit(whatOf(trigger), {}, [&](Emitter& e) { (e.starting.*member).push_back(trigger); });
            });
        };
        const auto plain = [](Cause cause) { return Trigger{cause, {}, {}, 2.0}; };
        offer(menu, tr("With the level"), plain(Cause::level));
        QMenu* entering = menu->addMenu(tr("On entering"));
        QMenu* leaving = menu->addMenu(tr("On leaving"));
        for (const auto& zone : session_.level().zones) {
            offer(entering, QString::fromStdString(zone->name), {Cause::enter, zone->id, {}, 2.0});
            offer(leaving, QString::fromStdString(zone->name), {Cause::leave, zone->id, {}, 2.0});
        }
        QMenu* byHand = menu->addMenu(tr("On a signal"));
        for (const auto& signal : session_.project().signalNames) {
            offer(byHand, QString::fromStdString(signal->name), {Cause::signal, {}, signal->id, 2.0});
        }
        for (QMenu* some : {entering, leaving, byHand}) {
            some->setEnabled(!some->isEmpty());
        }
        offer(menu, tr("On coming near"), {Cause::near, {}, {}, usuallyNear_m});
        offer(menu, tr("On going away"), {Cause::far, {}, {}, usuallyNear_m});
        offer(menu, tr("When used (key I)"), plain(Cause::interact));
        offer(menu, tr("When the character jumps"), plain(Cause::jump));
        offer(menu, tr("When it lands"), plain(Cause::land));
        offer(menu, tr("When it falls"), plain(Cause::fall));
        offer(menu, tr("When it is put back"), plain(Cause::reset));
    });
}

void StartForm::rebuild(Triggers& triggers)
{
    triggers.shown = thing()->starting.*triggers.member;
    triggers.built = true;
    rebuilt(triggers.list, [&] { build(triggers); });
}

void StartForm::build(const Triggers& triggers)
{
    const std::vector<Trigger>& now = triggers.shown;
    auto* grid = new QGridLayout(triggers.list);
    grid->setContentsMargins(8, 0, 0, 0);
    grid->setVerticalSpacing(0);
    grid->setColumnStretch(0, 1);
    if (now.empty()) {
        auto* none = new QLabel(triggers.list->accessibleDescription());
        none->setStyleSheet("color: " + theme::faint.name());
        grid->addWidget(none, 0, 0);
    }
    for (std::size_t i = 0; i < now.size(); ++i) {
        const QString what = whatOf(now[i]);
        auto* remove = remover(what);
        connect(remove, &QToolButton::clicked, this, [this, member = triggers.member, i, what] {
            edit(tr("not %1").arg(what), {}, [&](Emitter& e) {
                auto& all = e.starting.*member;
                if (i < all.size()) {
                    all.erase(all.begin() + static_cast<std::ptrdiff_t>(i));
                }
            });
        });
        const int line = static_cast<int>(i);
        grid->addWidget(new QLabel(what), line, 0);
        const Cause cause = now[i].cause;
        if (cause == Cause::interact || cause == Cause::near || cause == Cause::far) {
            auto* within = new NumberField("m", {0.01, 1000.0}, 1, 0.5);
            within->setObjectName(QString("%1Within%2").arg(triggers.list->objectName()).arg(i));
            within->setAccessibleName(tr("How near"));
            within->setToolTip(tr("From the character's feet to the emitter, in the plan"));
            within->present(now[i].within_m);
            connect(within, &NumberField::valueEdited, this, [this, member = triggers.member, i](double metres) {
                edit(tr("within %1").arg(theme::metres(metres)), QString("within %1").arg(i), [&](Emitter& e) {
                    auto& all = e.starting.*member;
                    if (i < all.size()) {
                        all[i].within_m = metres;
                    }
                });
            });
            connect(within, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
            grid->addWidget(within, line, 1);
        }
        grid->addWidget(remove, line, 2);
    }
}

void StartForm::rebuildConditions()
{
    shownConditions_ = thing()->starting.conditions;
    builtConditions_ = true;
    rebuilt(conditions_, [this] { buildConditions(); });
}

void StartForm::buildConditions()
{
    const std::vector<Condition>& now = shownConditions_;
    auto* grid = new QGridLayout(conditions_);
    grid->setContentsMargins(8, 0, 0, 0);
    grid->setVerticalSpacing(1);
    grid->setColumnStretch(0, 2);
    grid->setColumnStretch(1, 2);
    grid->setColumnStretch(2, 1);
    for (std::size_t i = 0; i < now.size(); ++i) {
        const int line = static_cast<int>(i);
        const auto change = [this, i](const QString& what, const std::function<void(Condition&)>& how) {
            edit(what, {}, [&](Emitter& e) {
                if (i < e.starting.conditions.size()) {
                    how(e.starting.conditions[i]);
                }
            });
        };
        auto* value = new QComboBox;
        value->setObjectName(QString("conditionValue%1").arg(i));
        value->setAccessibleName(tr("Game value of condition %1").arg(i + 1));
        for (const auto& known : session_.project().gameValues) {
            value->addItem(QString::fromStdString(known->name), QString::fromStdString(known->id.text));
        }
        value->setCurrentIndex(value->findData(QString::fromStdString(now[i].value.text)));
        connect(value, &QComboBox::activated, this, [value, change](int index) {
            change(value->itemText(index), [&](Condition& c) { c.value = {value->itemData(index).toString().toStdString()}; });
        });
        auto* is = new QComboBox;
        is->setObjectName(QString("conditionIs%1").arg(i));
        is->setAccessibleName(tr("At least or at most, of condition %1").arg(i + 1));
        is->addItems({tr("is at least"), tr("is at most")});
        is->setCurrentIndex(static_cast<int>(now[i].comparison));
        connect(is, &QComboBox::activated, this, [is, change](int index) {
            change(is->itemText(index), [&](Condition& c) { c.comparison = static_cast<Comparison>(index); });
        });
        auto* number = new NumberField({}, -1e9, 1e9, 2, 0.1);
        number->setObjectName(QString("conditionNumber%1").arg(i));
        number->setAccessibleName(tr("Number of condition %1").arg(i + 1));
        number->setValue(now[i].number);
        connect(number, &NumberField::valueEdited, this,
                [change](double to) { change(QString::number(to), [&](Condition& c) { c.number = to; }); });
        auto* remove = remover(tr("condition"));
        connect(remove, &QToolButton::clicked, this, [this, i] {
            edit(tr("one condition less"), {}, [&](Emitter& e) {
                auto& all = e.starting.conditions;
                if (i < all.size()) {
                    all.erase(all.begin() + static_cast<std::ptrdiff_t>(i));
                }
            });
        });
        grid->addWidget(value, line, 0);
        grid->addWidget(is, line, 1);
        grid->addWidget(number, line, 2);
        grid->addWidget(remove, line, 3);
    }
}

void StartForm::refresh()
{
    EmitterForm::refresh();
    const Emitter* emitter = thing();
    if (emitter == nullptr) {
        return;
    }
    for (Triggers& triggers : triggers_) {
        if (!triggers.built || triggers.shown != emitter->starting.*triggers.member) {
            rebuild(triggers);
        }
    }
    if (!builtConditions_ || shownConditions_ != emitter->starting.conditions) {
        rebuildConditions();
    }
    auto* add = findChild<QPushButton*>("addCondition");
    add->setEnabled(!session_.project().gameValues.empty());
    add->setToolTip(add->isEnabled() ? tr("A game value must be high or low enough")
                                     : tr("No effect: the project has no game values; add one on the pad (Ctrl+E)"));
}

} // namespace stone
