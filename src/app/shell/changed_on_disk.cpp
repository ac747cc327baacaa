// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/changed_on_disk.h"

#include "app/theme/labels.h"

#include <QDialogButtonBox>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace stone
{

namespace
{

/// A choice's two entries, in the order of Wins.
QStringList sidesOf(const Clash& clash)
{
    return {clash.oursGone ? QObject::tr("mine: taken out") : QObject::tr("mine"),
            clash.theirsGone ? QObject::tr("theirs: taken out") : QObject::tr("theirs")};
}

} // namespace

ChangedOnDisk::ChangedOnDisk(const QString& document, const QString& changes, const std::vector<Clash>& clashes,
                             const QString& trouble, QWidget* parent)
    : QDialog(parent)
{
    setObjectName("changedOnDisk");
    setWindowTitle(tr("Changed on the disk"));
    setMinimumWidth(460);
    auto* box = new QVBoxLayout(this);
    const auto say = [&](const QString& text) {
        auto* label = new QLabel(text);
        label->setTextFormat(Qt::PlainText); // names come from anybody's documents
        label->setWordWrap(true);
        box->addWidget(label);
    };
    say(tr("%1 was changed on the disk by something else since it was opened here.").arg(document));
    say(tr("There, not here:\n%1").arg(changes));
    if (!clashes.empty()) {
        say(tr("Changed in both, so choose whose to take:"));
        box->addWidget(makeClashes(clashes), 1);
    }
    if (!trouble.isEmpty()) {
        say(trouble);
    }
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    if (trouble.isEmpty()) {
        auto* both = buttons->addButton(tr("Save both together"), QDialogButtonBox::AcceptRole);
        both->setObjectName("saveBoth");
        both->setDefault(true);
        connect(both, &QPushButton::clicked, this, [this] { end(Answer::both); });
    }
    auto* over = buttons->addButton(tr("Write over it"), QDialogButtonBox::DestructiveRole);
    over->setObjectName("writeOver");
    over->setToolTip(tr("What is there and not here is lost"));
    connect(over, &QPushButton::clicked, this, [this] { end(Answer::over); });
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    box->addWidget(buttons);
}

/// A row for each clash, and all of them at once above.
QWidget* ChangedOnDisk::makeClashes(const std::vector<Clash>& clashes)
{
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 8, 0);
    grid->setColumnStretch(0, 1);
    int row = 0;
    if (clashes.size() > 1) {
        auto* all = new QComboBox;
        all->setObjectName("allClashes");
        all->setAccessibleName(tr("All of them"));
        all->addItems({tr("mine"), tr("theirs")});
        grid->addWidget(theme::caption(tr("all of them")), row, 0);
        grid->addWidget(all, row++, 1);
        connect(all, &QComboBox::activated, this, [this](int side) {
            for (QComboBox* choice : choices_) {
                choice->setCurrentIndex(side);
            }
        });
    }
    for (const Clash& clash : clashes) {
        const QString what = QString::fromStdString(clash.what);
        auto* label = new QLabel(what);
        label->setTextFormat(Qt::PlainText);
        label->setWordWrap(true);
        auto* choice = new QComboBox;
        choice->setObjectName(QString("clash%1").arg(choices_.size()));
        choice->setAccessibleName(what);
        choice->addItems(sidesOf(clash));
        grid->addWidget(label, row, 0);
        grid->addWidget(choice, row++, 1);
        choices_.push_back(choice);
    }
    grid->setRowStretch(row, 1);
    auto* scroll = new QScrollArea;
    scroll->setWidget(page);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    constexpr int most = 260;
    scroll->setMinimumHeight(std::min(page->sizeHint().height() + 4, most));
    return scroll;
}

std::vector<Wins> ChangedOnDisk::wins() const
{
    std::vector<Wins> wins;
    for (const QComboBox* choice : choices_) {
        wins.push_back(choice->currentIndex() == 0 ? Wins::ours : Wins::theirs);
    }
    return wins;
}

void ChangedOnDisk::end(Answer answer)
{
    answer_ = answer;
    accept();
}

} // namespace stone
