// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ears/rig_button.h"

#include "app/theme/theme.h"

#include <QActionGroup>
#include <QMenu>

namespace stone
{

QStringList rigKinds()
{
    return {QObject::tr("First person"), QObject::tr("Over the shoulder"), QObject::tr("From above"), QObject::tr("Side-on")};
}

RigButton::RigButton(Session& session, QWidget* parent) : QToolButton(parent), session_(session)
{
    setObjectName("rigButton");
    setFont(theme::text(8.5));
    setPopupMode(QToolButton::InstantPopup);
    setToolTip(tr("Through which rig one listens: where camera and ears are (O: the next one)"));
    setMenu(new QMenu(this));
    menu()->setObjectName("rigMenu");
    connect(menu(), &QMenu::aboutToShow, this, &RigButton::rebuild);
    const auto present = [this] {
        const Project& project = session_.project();
        setText(tr("Ears: %1").arg(QString::fromStdString(rigOf(project, project.rig).name)));
        adjustSize();
    };
    connect(&session_, &Session::documentChanged, this, present);
    present();
    rebuild();
}

void RigButton::rebuild()
{
    menu()->clear();
    const Project& project = session_.project();
    auto* group = new QActionGroup(menu());
    const auto offer = [&](const QString& name, const RigId& id) {
        QAction* action = menu()->addAction(name, this, [this, id] { choose(id); });
        action->setCheckable(true);
        action->setChecked(project.rig == id || (id.empty() && project.rigs.find(project.rig) == nullptr));
        group->addAction(action);
    };
    offer(QString::fromStdString(rigOf(project, {}).name), {});
    for (const auto& rig : project.rigs) {
        offer(QString::fromStdString(rig->name), rig->id);
    }
    menu()->addSeparator();
    QMenu* fresh = menu()->addMenu(tr("New rig"));
    const QStringList kinds = rigKinds();
    for (int kind = 0; kind < kinds.size(); ++kind) {
        fresh->addAction(kinds[kind], this, [this, kind] { make(static_cast<Rig::Kind>(kind)); });
    }
    menu()->addAction(tr("Set up…"), this, &RigButton::setUpWanted);
    menu()->addAction(tr("Compare two rigs on a walk…"), this, &RigButton::compareWanted);
}

void RigButton::choose(const RigId& id)
{
    Project next = session_.project();
    next.rig = id;
    const QString name = QString::fromStdString(rigOf(next, id).name);
    session_.edit(std::move(next), tr("Listen through %1").arg(name));
}

void RigButton::next()
{
    const auto& rigs = session_.project().rigs;
    std::size_t at = 0;
    while (at < rigs.size() && rigs[at]->id != session_.project().rig) {
        ++at;
    }
    // Past the end: the first person, after which the first of the list comes.
    const std::size_t after = at == rigs.size() ? 0 : at + 1;
    choose(after < rigs.size() ? rigs[after]->id : RigId{});
}

void RigButton::make(Rig::Kind kind)
{
    Project next = session_.project();
    Rig rig;
    rig.kind = kind;
    rig.name = rigKinds()[static_cast<int>(kind)].toStdString();
    rig.id = next.rigs.freshId(rig.name);
    if (kind == Rig::Kind::fromAbove) {
        rig.distance_m = 10.0;
    } else if (kind == Rig::Kind::sideOn) {
        rig.distance_m = 8.0;
    }
    next.rig = rig.id;
    const QString name = QString::fromStdString(rig.name);
    next.rigs.put(std::move(rig));
    session_.edit(std::move(next), tr("New rig %1").arg(name));
    emit setUpWanted();
}

} // namespace stone
