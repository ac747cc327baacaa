// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/strata/take_comparison.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "project/file_error.h"
#include "project/read.h"
#include "takes/take_compare.h"

#include <QDialogButtonBox>
#include <QHeaderView>
#include <QPushButton>
#include <QVBoxLayout>
#include <QtConcurrent>

#include <cmath>

namespace stone
{

namespace
{

QTableWidget* table(const char* name, const QString& label, const QStringList& columns)
{
    auto* made = new QTableWidget(0, static_cast<int>(columns.size()));
    made->setObjectName(name);
    made->setAccessibleName(label);
    made->setHorizontalHeaderLabels(columns);
    made->verticalHeader()->hide();
    made->setEditTriggers(QAbstractItemView::NoEditTriggers);
    made->setSelectionBehavior(QAbstractItemView::SelectRows);
    made->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    return made;
}

QTableWidgetItem* number(const QString& text)
{
    auto* item = new QTableWidgetItem(text);
    item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    item->setFont(theme::number(9));
    return item;
}

QString nameOf(const Take& take)
{
    return QString::fromStdString(take.path().stem().string());
}

} // namespace

TakeComparisonDialog::TakeComparisonDialog(Session& session, TakeDesk& desk, QWidget* parent)
    : QDialog(parent), session_(session), desk_(desk), first_(desk.other()), second_(desk.take()), title_(new QLabel),
      progress_(new QProgressBar),
      changed_(table("takeChanged", tr("What was changed"), {tr("What was changed in between"), tr("was"), tr("is")})),
      did_(table("takeDid", tr("What that did"), {tr("What that did at the ears"), tr("mean"), tr("most"), tr("at")})),
      whole_(table("takeWhole", tr("The whole"), {tr("The whole"), nameOf(*second_), nameOf(*first_)})),
      parts_(table("takeParts", tr("Part by part"), {tr("Parts of the way"), nameOf(*second_), nameOf(*first_)})),
      stop_(std::make_shared<std::atomic<bool>>(false))
{
    setObjectName("takeComparison");
    setWindowTitle(tr("%1 against %2").arg(nameOf(*second_), nameOf(*first_)));
    resize(560, 640);
    title_->setObjectName("takeSame");
    progress_->setRange(0, 0);
    progress_->setTextVisible(false);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    back_ = buttons->addButton(tr("Bring %1's state back").arg(nameOf(*first_)), QDialogButtonBox::ActionRole);
    back_->setObjectName("takeBringBack");
    back_->setToolTip(tr("Makes the project what it was at the end of that take: one step that can be undone"));
    auto* box = new QVBoxLayout(this);
    box->addWidget(title_);
    box->addWidget(progress_);
    box->addWidget(changed_, 2);
    box->addWidget(did_, 3);
    box->addWidget(whole_, 2);
    box->addWidget(parts_, 2);
    parts_->hide();
    box->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(back_, &QPushButton::clicked, this, &TakeComparisonDialog::bringBack);
    connect(did_, &QTableWidget::cellClicked, this, [this](int row) {
        const QTableWidgetItem* item = did_->item(row, 0);
        if (desk_.take() == second_) {
            desk_.setCursor(item->data(Qt::UserRole).toDouble());
        }
        const EmitterId id{item->data(Qt::UserRole + 1).toString().toStdString()};
        if (session_.level().emitters.find(id) != nullptr) {
            session_.selectOnly(id);
        }
    });
    connect(parts_, &QTableWidget::cellClicked, this, [this](int row) {
        if (desk_.take() == second_) {
            desk_.setCursor(parts_->item(row, 0)->data(Qt::UserRole).toDouble());
        }
    });
    connect(&work_, &QFutureWatcherBase::finished, this, [this] {
        progress_->hide();
        comparison_ = work_.result();
        if (comparison_) {
            fill(*comparison_);
        } else if (!*stop_) {
            title_->setText(tr("One of the two cannot be read to its end."));
        }
    });
    begin();
}

TakeComparisonDialog::~TakeComparisonDialog()
{
    *stop_ = true;
    work_.waitForFinished();
}

void TakeComparisonDialog::begin()
{
    title_->setText(tr("Comparing…"));
    work_.setFuture(QtConcurrent::run(
        &workPool(), [first = first_, second = second_, stop = stop_]() -> std::shared_ptr<const TakeComparison> {
            try {
                auto comparison =
                    std::make_shared<TakeComparison>(compareTakes(*first, *second, [stop](double) { return !*stop; }));
                return *stop ? nullptr : comparison;
            } catch (const FileError&) {
                return nullptr;
            }
        }));
}

void TakeComparisonDialog::fill(const TakeComparison& comparison)
{
    title_->setText(comparison.byTime ? tr("Same walk, moment by moment.")
                                      : tr("Other ways: compared by how far along each is."));
    changed_->setRowCount(static_cast<int>(comparison.changed.size()));
    for (int row = 0; row < changed_->rowCount(); ++row) {
        const Difference& difference = comparison.changed[static_cast<std::size_t>(row)];
        const QString field = QString::fromStdString(difference.field);
        const QString what = QString::fromStdString(difference.what);
        auto* item = new QTableWidgetItem(field.isEmpty() ? what : what + ": " + field);
        item->setToolTip(QString::fromStdString(inWords(difference)));
        changed_->setItem(row, 0, item);
        changed_->setItem(row, 1, number(QString::fromStdString(difference.from)));
        changed_->setItem(row, 2, number(QString::fromStdString(difference.to)));
    }
    if (comparison.changed.empty()) {
        changed_->setRowCount(1);
        changed_->setItem(0, 0, new QTableWidgetItem(tr("Nothing.")));
    }
    did_->setRowCount(0);
    constexpr double noticed_db = 0.05;
    for (const auto* list : {&comparison.emitters, &comparison.families}) {
        for (const TakeDifference& one : *list) {
            if (std::abs(one.mean_db) < noticed_db && std::abs(one.largest_db) < noticed_db) {
                continue;
            }
            const int row = did_->rowCount();
            did_->insertRow(row);
            QString name = QString::fromStdString(one.name);
            name = list == &comparison.families ? tr("family %1").arg(name) : name;
            auto* item = new QTableWidgetItem(one.cameNew    ? tr("%1, new").arg(name)
                                              : one.wentAway ? tr("%1, not heard any more").arg(name)
                                                             : name);
            item->setData(Qt::UserRole, one.inSecond_s);
            item->setData(Qt::UserRole + 1, QString::fromStdString(one.emitter.text));
            did_->setItem(row, 0, item);
            did_->setItem(row, 1, number(theme::signedNumber(one.mean_db, 1)));
            did_->setItem(row, 2, number(theme::signedNumber(one.largest_db, 1)));
            did_->setItem(row, 3, number(theme::clock(one.inSecond_s)));
        }
    }
    const TakeTotals& was = comparison.first;
    const TakeTotals& is = comparison.second;
    const auto decimals = [](double value, int places) {
        return std::isfinite(value) ? theme::signedNumber(value, places) : QStringLiteral("–");
    };
    const std::pair<QString, std::pair<QString, QString>> lines[] = {
        {tr("Loudness, LUFS"), {decimals(is.integrated_lufs, 1), decimals(was.integrated_lufs, 1)}},
        {tr("True peak, dB"), {decimals(is.truePeak_db, 1), decimals(was.truePeak_db, 1)}},
        {tr("Voices, most and mean"),
         {tr("%1 / %2").arg(is.voicesMost).arg(is.voicesMean, 0, 'f', 1),
          tr("%1 / %2").arg(was.voicesMost).arg(was.voicesMean, 0, 'f', 1)}},
        {tr("Gave way, times"), {QString::number(is.gaveWay), QString::number(was.gaveWay)}},
        {tr("Processor, mean %"), {decimals(is.cpu_pct, 1), decimals(was.cpu_pct, 1)}},
        {tr("Jumps over 6 dB in 0.1 s"), {QString::number(is.jumps), QString::number(was.jumps)}},
        {tr("Time and way"),
         {tr("%1, %2").arg(theme::clock(is.seconds), theme::metres(is.way_m)),
          tr("%1, %2").arg(theme::clock(was.seconds), theme::metres(was.way_m))}},
        {tr("Bumps and falls"), {tr("%1 / %2").arg(is.bumps).arg(is.falls), tr("%1 / %2").arg(was.bumps).arg(was.falls)}}};
    whole_->setRowCount(static_cast<int>(std::size(lines)));
    int row = 0;
    for (const auto& [what, values] : lines) {
        whole_->setItem(row, 0, new QTableWidgetItem(what));
        whole_->setItem(row, 1, number(values.first));
        whole_->setItem(row++, 2, number(values.second));
    }
    fillParts(comparison.stretches);
    for (QTableWidget* one : {changed_, did_, whole_, parts_}) {
        for (int column = 1; column < one->columnCount(); ++column) {
            one->resizeColumnToContents(column);
            one->setColumnWidth(column, std::min(one->columnWidth(column), 150));
        }
    }
}

/// Ways that were walked freely, part by part: one seen and one blind, say.
void TakeComparisonDialog::fillParts(const std::vector<TakeStretch>& stretches)
{
    parts_->setVisible(!stretches.empty());
    parts_->setRowCount(static_cast<int>(stretches.size()));
    const auto said = [](const TakeStretch::Of& part) {
        return tr("%1, %2, %3 / %4")
            .arg(theme::clock(part.to_s - part.from_s), theme::metres(part.way_m))
            .arg(part.bumps)
            .arg(part.falls);
    };
    for (int row = 0; row < parts_->rowCount(); ++row) {
        const TakeStretch& stretch = stretches[static_cast<std::size_t>(row)];
        auto* item = new QTableWidgetItem(tr("%1 of %2").arg(row + 1).arg(parts_->rowCount()));
        item->setToolTip(tr("Time, way, bumps and falls, to %1 m east, %2 m north")
                             .arg(theme::signedNumber(stretch.to.x, 1), theme::signedNumber(stretch.to.y, 1)));
        item->setData(Qt::UserRole, stretch.second.from_s);
        parts_->setItem(row, 0, item);
        parts_->setItem(row, 1, number(said(stretch.second)));
        parts_->setItem(row, 2, number(said(stretch.first)));
    }
}

void TakeComparisonDialog::bringBack()
{
    try {
        Project state = readProjectText(first_->documentText(first_->documents().size() - 1), first_->path().string()).project;
        session_.edit(std::move(state), tr("Bring back the state of %1").arg(nameOf(*first_)));
    } catch (const FileError& error) {
        title_->setText(QString::fromStdString(error.what()));
    }
}

} // namespace stone
