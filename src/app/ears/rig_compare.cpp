// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ears/rig_compare.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>
#include <QtConcurrent>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>

namespace stone
{

RigCompare::RigCompare(Session& session, Playback& playback, QWidget* parent)
    : QDialog(parent, Qt::Tool), session_(session), playback_(playback), first_(new QComboBox), second_(new QComboBox),
      walk_(new QComboBox), button_(new QPushButton), words_(new QLabel), table_(new QTableWidget(0, 5)), plot_(new QCustomPlot)
{
    setObjectName("rigCompare");
    setWindowTitle(tr("Two rigs on the same walk"));
    resize(640, 560);
    first_->setObjectName("firstRig");
    first_->setAccessibleName(tr("First rig"));
    second_->setObjectName("secondRig");
    second_->setAccessibleName(tr("Second rig"));
    walk_->setObjectName("compareWalk");
    walk_->setAccessibleName(tr("Walk"));
    button_->setObjectName("compareNow");
    words_->setWordWrap(true);
    table_->setObjectName("rigDifferences");
    table_->setHorizontalHeaderLabels({tr("Emitter"), tr("Level, most"), tr("at"), tr("Side, most"), tr("at")});
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table_->verticalHeader()->hide();
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    plot_->setObjectName("rigPlot");
    plot_->setMinimumHeight(200);
    layOutPlot();

    auto* top = new QHBoxLayout;
    const auto add = [top](const QString& label, QWidget* field) {
        auto* box = new QVBoxLayout;
        box->setSpacing(1);
        box->addWidget(theme::caption(label));
        box->addWidget(field);
        top->addLayout(box, 1);
    };
    add(tr("From"), first_);
    add(tr("To"), second_);
    add(tr("On the walk"), walk_);
    top->addWidget(button_, 0, Qt::AlignBottom);
    auto* box = new QVBoxLayout(this);
    box->addLayout(top);
    box->addWidget(words_);
    box->addWidget(table_, 1);
    box->addWidget(plot_, 1);
    connect(button_, &QPushButton::clicked, this, &RigCompare::compare);
    connect(table_, &QTableWidget::itemSelectionChanged, this, &RigCompare::showRow);
    connect(&session_, &Session::documentChanged, this, &RigCompare::offer);
    connect(&watcher_, &QFutureWatcher<RigComparison>::finished, this, &RigCompare::finished);
    connect(&watcher_, &QFutureWatcher<RigComparison>::progressValueChanged, this,
            [this](int value) { button_->setText(tr("Stop: %1 %").arg(value)); });
    offer();
    if (second_->count() > 1) {
        const QString inUse = QString::fromStdString(session_.project().rig.text);
        second_->setCurrentIndex(std::max(second_->findData(inUse), 1));
    }
    finished();
    if (button_->isEnabled()) {
        compare();
    }
}

RigCompare::~RigCompare()
{
    watcher_.cancel();
    watcher_.waitForFinished();
}

void RigCompare::layOutPlot()
{
    plot_->plotLayout()->clear();
    plot_->setBackground(theme::paper);
    const QString labels[] = {tr("louder, dB"), tr("to the right, °")};
    const QColor colours[] = {theme::ochre, theme::lapis};
    for (int i = 0; i < 2; ++i) {
        auto* rect = new QCPAxisRect(plot_);
        plot_->plotLayout()->addElement(i, 0, rect);
        QCPAxis* along = rect->axis(QCPAxis::atBottom);
        QCPAxis* up = rect->axis(QCPAxis::atLeft);
        for (QCPAxis* axis : {along, up}) {
            axis->setTickLabelFont(theme::number(7));
            axis->setLabelFont(theme::text(7.5));
            axis->grid()->setPen(QPen(theme::grid, 1));
        }
        up->setLabel(labels[i]);
        if (i == 1) {
            along->setLabel(tr("seconds of the walk"));
        }
        plot_->addGraph(along, up)->setPen(QPen(colours[i], 1.6));
    }
}

void RigCompare::offer()
{
    const auto fill = [](QComboBox* box, const std::vector<std::pair<QString, QString>>& items) {
        const QString current = box->currentData().toString();
        const bool first = box->count() == 0;
        box->clear();
        for (const auto& [name, id] : items) {
            box->addItem(name, id);
        }
        box->setCurrentIndex(first ? 0 : std::max(box->findData(current), 0));
    };
    std::vector<std::pair<QString, QString>> rigs{{QString::fromStdString(rigOf(session_.project(), {}).name), QString()}};
    for (const auto& rig : session_.project().rigs) {
        rigs.emplace_back(QString::fromStdString(rig->name), QString::fromStdString(rig->id.text));
    }
    fill(first_, rigs);
    fill(second_, rigs);
    std::vector<std::pair<QString, QString>> walks;
    for (const auto& walk : session_.level().walks) {
        walks.emplace_back(QString::fromStdString(walk->name), QString::fromStdString(walk->id.text));
    }
    fill(walk_, walks);
    button_->setEnabled(walk_->count() > 0 && (first_->count() > 1 || running_));
}

void RigCompare::compare()
{
    if (running_) {
        watcher_.cancel();
        return;
    }
    const Walk* walk = session_.level().walks.find({walk_->currentData().toString().toStdString()});
    if (walk == nullptr) {
        return;
    }
    running_ = true;
    const auto rig = [](const QComboBox* box) { return RigId{box->currentData().toString().toStdString()}; };
    watcher_.setFuture(QtConcurrent::run(
        &workPool(), [project = session_.document(), level = session_.levelId(), ground = session_.loadedLevel().ground,
                      walk = *walk, first = rig(first_), second = rig(second_)](QPromise<RigComparison>& promise) {
            promise.setProgressRange(0, 100);
            promise.addResult(compareRigs(*project, level, ground, walk, first, second, [&](double share) {
                promise.setProgressValue(static_cast<int>(share * 100.0));
                return !promise.isCanceled();
            }));
        }));
    button_->setText(tr("Stop: %1 %").arg(0));
}

void RigCompare::finished()
{
    running_ = false;
    button_->setText(tr("Compare"));
    if (!watcher_.isCanceled() && watcher_.future().resultCount() > 0) {
        found_ = watcher_.result();
        words_->setText(found_.rows.empty()
                            ? tr("Nothing is heard on this walk through either.")
                            : tr("Positive: louder, and farther to the right, through %1. What one of them does not "
                                 "hear at all counts as %2 dB.")
                                  .arg(second_->currentText(), theme::signedNumber(RigComparison::floor_db, 0)));
    } else {
        words_->setText(first_->count() < 2  ? tr("There is only one rig yet: make another with the button over the Ear dial.")
                        : walk_->count() < 1 ? tr("There is no walk in this level.")
                                             : tr("Goes through the walk with both, and shows what differs at the ears."));
    }
    showRows();
    offer();
}

void RigCompare::showRows()
{
    table_->setRowCount(static_cast<int>(found_.rows.size()));
    for (int i = 0; i < table_->rowCount(); ++i) {
        const RigComparison::Row& row = found_.rows[static_cast<std::size_t>(i)];
        const Emitter* emitter = session_.level().emitters.find(row.emitter);
        const QString texts[] = {emitter != nullptr ? QString::fromStdString(emitter->name) : QString(),
                                 theme::signedNumber(row.mostLevel_db, 1) + " dB", theme::clock(row.mostLevelAt_s),
                                 theme::signedNumber(row.mostAzimuth_deg, 0) + QStringLiteral("°"),
                                 theme::clock(row.mostAzimuthAt_s)};
        for (int column = 0; column < 5; ++column) {
            auto* item = new QTableWidgetItem(texts[column]);
            item->setTextAlignment(column == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
            table_->setItem(i, column, item);
        }
    }
    if (table_->rowCount() > 0) {
        table_->selectRow(0);
    }
    showRow();
}

void RigCompare::showRow()
{
    const int index = table_->currentRow();
    const bool any = index >= 0 && static_cast<std::size_t>(index) < found_.rows.size();
    const RigComparison::Row empty{.emitter = {}, .level_db = {}, .azimuth_deg = {}, .heard = {}};
    const RigComparison::Row& row = any ? found_.rows[static_cast<std::size_t>(index)] : empty;
    for (int i = 0; i < 2; ++i) {
        const std::vector<float>& values = i == 0 ? row.level_db : row.azimuth_deg;
        QVector<double> x;
        QVector<double> y;
        for (std::size_t k = 0; k < values.size(); ++k) {
            x << static_cast<double>(k) * RigComparison::every_s;
            y << static_cast<double>(values[k]);
        }
        QCPGraph* graph = plot_->graph(i);
        graph->setData(x, y, true);
        graph->keyAxis()->setRange(0.0, x.isEmpty() ? 1.0 : std::max(x.last(), 1.0));
        graph->valueAxis()->rescale();
        const double most = std::max(
            {std::abs(graph->valueAxis()->range().lower), std::abs(graph->valueAxis()->range().upper), i == 0 ? 3.0 : 20.0});
        graph->valueAxis()->setRange(-most, most);
    }
    plot_->replot();
}

} // namespace stone
