// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/pattern_row.h"

#include "app/theme/labels.h"

#include <QGridLayout>
#include <QMenu>
#include <QSignalBlocker>

namespace stone
{

namespace
{
const QString makeNew = QStringLiteral("\n");
} // namespace

PatternRow::PatternRow(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), family_(new QComboBox), pattern_(new QComboBox), own_(new QToolButton)
{
    for (QComboBox* box : {family_, pattern_}) {
        box->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    }
    family_->setObjectName("emitterFamily");
    family_->setAccessibleName(tr("Family"));
    family_->setToolTip(tr("All sounds of a kind: one level, filters, reach and mute for them together (tab Families)"));
    pattern_->setObjectName("emitterPattern");
    pattern_->setAccessibleName(tr("Pattern"));
    pattern_->setToolTip(tr("A set-up emitter that this one is a copy of: it follows, except in what is its own"));
    own_->setObjectName("ownSettings");
    own_->setPopupMode(QToolButton::InstantPopup);
    own_->setMenu(new QMenu(own_));
    connect(own_->menu(), &QMenu::aboutToShow, this, &PatternRow::fillMenu);
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    grid->addWidget(theme::caption(tr("Family"), family_), 0, 0);
    grid->addWidget(theme::caption(tr("Pattern"), pattern_), 0, 1);
    grid->addWidget(family_, 1, 0);
    grid->addWidget(pattern_, 1, 1);
    grid->addWidget(own_, 1, 2);
    grid->setColumnStretch(0, 1);
    grid->setColumnStretch(1, 1);

    connect(family_, &QComboBox::activated, this, [this](int index) {
        const QString id = family_->itemData(index).toString();
        if (id == makeNew) {
            Project next = session_.project();
            Family family;
            family.name = tr("Family %1").arg(next.families.size() + 1).toStdString();
            family.id = next.families.freshId(family.name);
            const FamilyId made = family.id;
            next.families.append(std::move(family));
            session_.edit(std::move(next), tr("New family"), "family");
            session_.editSelected(tr("New family"), "family", [&](Emitter& e) { e.family = made; });
            session_.endGesture();
            return;
        }
        session_.editSelected(tr("Family %1").arg(family_->itemText(index)), {},
                              [&](Emitter& e) { e.family = {id.toStdString()}; });
    });
    connect(pattern_, &QComboBox::activated, this, &PatternRow::choosePattern);
}

void PatternRow::choosePattern(int index)
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    const QString id = pattern_->itemData(index).toString();
    const QString name = QString::fromStdString(emitter->name);
    if (id == makeNew) {
        session_.edit(withPatternOf(session_.project(), session_.levelId(), emitter->id, emitter->name),
                      tr("Make a pattern of %1").arg(name));
        return;
    }
    Project next = session_.project();
    std::set<EmitterId> all = session_.selection();
    if (session_.pinned() || !all.contains(emitter->id)) {
        all = {emitter->id};
    }
    for (const EmitterId& each : all) {
        next = withPatternFor(std::move(next), session_.levelId(), each, {id.toStdString()});
    }
    session_.edit(std::move(next), id.isEmpty() ? tr("%1 stands alone").arg(name)
                                                : tr("%1 follows pattern %2").arg(name, pattern_->itemText(index)));
}

void PatternRow::fillMenu()
{
    QMenu* menu = own_->menu();
    menu->clear();
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    const QString name = QString::fromStdString(emitter->name);
    const auto follow = [this, id = emitter->id, name](SettingSet which, const QString& what) {
        session_.edit(withFollowing(session_.project(), session_.levelId(), id, which),
                      tr("%1 follows its pattern in %2").arg(name, what));
    };
    for (std::size_t i = 0; i < settingCount; ++i) {
        if (emitter->own[i]) {
            const QString what = QString::fromUtf8(settingName(static_cast<Setting>(i))).toLower();
            SettingSet one;
            one.set(i);
            connect(menu->addAction(tr("Follow the pattern in %1 again").arg(what)), &QAction::triggered, this,
                    [follow, one, what] { follow(one, what); });
        }
    }
    menu->addSeparator();
    connect(menu->addAction(tr("Follow it in everything")), &QAction::triggered, this,
            [follow] { follow(SettingSet{}.set(), tr("everything")); });
    connect(menu->addAction(tr("Give these to the pattern and all its copies")), &QAction::triggered, this,
            [this, copy = *emitter, name] {
                const Pattern* found = session_.project().patterns.find(copy.pattern);
                if (found == nullptr) {
                    return;
                }
                Pattern pattern = *found;
                takeSettings(pattern.settings, copy, copy.own);
                Project next = withPattern(session_.project(), std::move(pattern));
                next = withFollowing(std::move(next), session_.levelId(), copy.id, SettingSet{}.set());
                session_.edit(std::move(next), tr("The pattern takes over the settings of %1").arg(name));
            });
}

void PatternRow::refresh()
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    const auto fill = [](QComboBox* box, const auto& things, const std::string& chosen, const QString& none,
                         const QString& fresh) {
        const QSignalBlocker quiet(box);
        box->clear();
        box->addItem(none, QString());
        for (const auto& thing : things) {
            box->addItem(QString::fromStdString(thing->name), QString::fromStdString(thing->id.text));
        }
        box->addItem(fresh, makeNew);
        box->setCurrentIndex(std::max(box->findData(QString::fromStdString(chosen)), 0));
    };
    fill(family_, session_.project().families, emitter->family.text, tr("none"), tr("new family …"));
    fill(pattern_, session_.project().patterns, emitter->pattern.text, tr("none"), tr("make one of this …"));
    const auto own = emitter->own.count();
    own_->setVisible(!emitter->pattern.empty());
    own_->setEnabled(own > 0);
    own_->setText(own == 0 ? tr("follows") : tr("%1 own").arg(own));
    QStringList names;
    for (std::size_t i = 0; i < settingCount; ++i) {
        if (emitter->own[i]) {
            names << QString::fromUtf8(settingName(static_cast<Setting>(i))).toLower();
        }
    }
    own_->setToolTip(own == 0 ? tr("It follows its pattern in everything")
                              : tr("Its own: %1. Click to follow the pattern again").arg(names.join(", ")));
}

} // namespace stone
