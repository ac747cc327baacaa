// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/game/game_dialog.h"

#include "app/theme/labels.h"
#include "app/theme/theme.h"
#include "app/widgets/number_field.h"
#include "app/widgets/typed_dialog.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLocale>
#include <QSettings>
#include <QVBoxLayout>

namespace stone
{

namespace
{

const QString portKey = QStringLiteral("game/port");

QTableWidgetItem* item(const QString& text)
{
    auto* made = new QTableWidgetItem(text);
    made->setFlags(Qt::ItemIsEnabled);
    return made;
}

QString seconds(double value_s)
{
    return QLocale().toString(qRound(value_s * 1000.0)) + QStringLiteral(" ms");
}

} // namespace

GameDialog::GameDialog(GameDesk& desk, QWidget* parent)
    : QDialog(parent), desk_(desk), port_(new NumberField({}, 1, 65'535, 0, 1)),
      anywhere_(new QCheckBox(tr("other machines may tell, too"))), begin_(new QPushButton), state_(new QLabel),
      wrong_(new QLabel), unknown_(new QTableWidget(0, 3))
{
    setObjectName("gameDialog");
    setWindowTitle(tr("Listen along to a game"));
    auto* box = new QVBoxLayout(this);
    box->setSpacing(8);
    box->addWidget(theme::explained(
        tr("A game that is running tells where its character and its things are, and what happens: it is heard here as the "
           "project "
           "has it, and whatever you change is heard in the game at once. How a game tells it (OSC): Help › Guide, A running "
           "game. To try it without one: stone-echo-game, a pretend game.")));
    port_->setObjectName("gamePort");
    port_->setAccessibleName(tr("Port"));
    port_->setValue(QSettings().value(portKey, GameLink::usualPort).toInt());
    anywhere_->setObjectName("gameAnywhere");
    anywhere_->setToolTip(
        tr("Otherwise only programs on this machine are listened to. Whoever can reach the port can move what is "
           "heard, but not the project"));
    begin_->setObjectName("gameBegin");
    begin_->setDefault(true);
    auto* row = new QHBoxLayout;
    row->addWidget(theme::caption(tr("Port"), port_));
    port_->setMinimumWidth(90);
    row->addWidget(port_);
    row->addStretch(1);
    row->addWidget(begin_);
    box->addLayout(row);
    box->addWidget(anywhere_);
    for (QLabel* label : {state_, wrong_}) {
        label->setWordWrap(true);
        label->setTextInteractionFlags(Qt::TextSelectableByMouse);
        box->addWidget(label);
    }
    state_->setObjectName("gameState");
    wrong_->setObjectName("gameWrong");
    unknown_->setObjectName("gameUnknown");
    unknown_->setAccessibleName(tr("Names that are not here"));
    unknown_->setHorizontalHeaderLabels({tr("what"), tr("name that is not here"), tr("told")});
    unknown_->verticalHeader()->hide();
    unknown_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
    unknown_->setSelectionMode(QAbstractItemView::NoSelection);
    unknown_->setMinimumSize(460, 150);
    box->addWidget(unknown_, 1);
    connect(begin_, &QPushButton::clicked, this, &GameDialog::beginOrEnd);
    connect(&desk_, &GameDesk::changed, this, &GameDialog::refresh);
    enterEndsTyping(this);
    resize(520, 520);
    refresh();
}

void GameDialog::beginOrEnd()
{
    if (desk_.on()) {
        desk_.end();
        return;
    }
    const int port = static_cast<int>(port_->value());
    QSettings().setValue(portKey, port);
    const QString problem = desk_.begin(port, anywhere_->isChecked());
    if (!problem.isEmpty()) {
        state_->setText(problem);
    }
}

void GameDialog::refresh()
{
    const bool on = desk_.on();
    begin_->setText(on ? tr("End") : tr("Listen along"));
    port_->setEnabled(!on);
    anywhere_->setEnabled(!on);
    if (!on) {
        state_->setText(tr("Not listening along."));
        wrong_->clear();
        unknown_->setRowCount(0);
        return;
    }
    const Follower::Report now = desk_.report();
    const QStringList games = desk_.games();
    const QLocale locale;
    QStringList lines{desk_.words() + '.'};
    lines << (games.isEmpty() ? tr("No game said hello: none is told back what is heard and changed.")
                              : tr("Told back: %1.").arg(games.join(QStringLiteral(", "))));
    lines << tr("Longest gap between two poses in the last second: %1. Late by at most %2; %3 behind is played.")
                 .arg(seconds(now.longestGap_s), seconds(now.late_s), seconds(Follower::behind_s));
    if (now.character) {
        lines << tr("The character is at %1, %2, %3 m. Things: %4.")
                     .arg(now.character->at.x, 0, 'f', 1)
                     .arg(now.character->at.y, 0, 'f', 1)
                     .arg(now.character->at.z, 0, 'f', 1)
                     .arg(now.things);
    }
    state_->setText(lines.join('\n'));
    wrong_->setText(now.misunderstood == 0 ? QString()
                                           : tr("Not understood: %1, the last one: %2")
                                                 .arg(locale.toString(static_cast<qulonglong>(now.misunderstood)),
                                                      QString::fromStdString(now.lastMisunderstood)));
    unknown_->setRowCount(static_cast<int>(now.unknown.size()));
    int line = 0;
    for (const auto& [what, count] : now.unknown) {
        unknown_->setItem(line, 0, item(QString::fromStdString(what.first)));
        unknown_->setItem(line, 1, item(QString::fromStdString(what.second)));
        unknown_->setItem(line, 2, item(tr("%1 times").arg(locale.toString(static_cast<qulonglong>(count)))));
        ++line;
    }
}

} // namespace stone
