// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/crowd/cost_dialog.h"

#include "app/theme/labels.h"

#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include <algorithm>
#include <numeric>

namespace stone
{

namespace
{

enum Column { name, now, mean, most, voices, memory, minute };

/// Sorts by what it is, not by how it is written.
class NumberItem : public QTableWidgetItem
{
public:
    NumberItem(const QString& text, double value) : QTableWidgetItem(text), value_(value)
    {
        setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        setFont(theme::number(9));
    }
    bool operator<(const QTableWidgetItem& other) const override
    {
        const auto* number = dynamic_cast<const NumberItem*>(&other);
        return number != nullptr ? value_ < number->value_ : QTableWidgetItem::operator<(other);
    }
    double value() const { return value_; }

private:
    double value_;
};

/// The last minute as a line, each row over its own most.
class MinuteDelegate : public QStyledItemDelegate
{
public:
    using QStyledItemDelegate::QStyledItemDelegate;

    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override
    {
        const QList<QVariant> values = index.data(Qt::UserRole).toList();
        const QRectF area = QRectF(option.rect).adjusted(4, 3, -4, -3);
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        painter->setPen(QPen(theme::line, 1));
        painter->drawLine(area.bottomLeft(), area.bottomRight());
        double most = 1e-9;
        for (const QVariant& value : values) {
            most = std::max(most, value.toDouble());
        }
        QPolygonF line;
        for (qsizetype i = 0; i < values.size(); ++i) {
            const double ago = static_cast<double>(values.size() - 1 - i) / static_cast<double>(CostHistory::kept - 1);
            line << QPointF(area.right() - ago * area.width(), area.bottom() - values[i].toDouble() / most * area.height());
        }
        painter->setPen(QPen(theme::verdigris, 1.3));
        painter->drawPolyline(line);
        painter->restore();
    }
};

QString percent(double share)
{
    return QObject::tr("%1 %").arg(share, 0, 'f', share < 10.0 ? 2 : 1);
}

QString explanationOf(CostStage stage)
{
    switch (stage) {
    case CostStage::deciding:
        return QObject::tr("What goes on in the level, and what of it is heard: walls, zones, who gives way");
    case CostStage::ordering: return QObject::tr("What plays where, and what comes from the disk");
    case CostStage::voices: return QObject::tr("Reading, filtering and placing each copy: see by sound, and by kind of work");
    case CostStage::reflections: return QObject::tr("Single echoes from the walls round you");
    case CostStage::rooms: return QObject::tr("The reverb of rooms");
    case CostStage::ears: return QObject::tr("What is wide or reverberant, through the head");
    case CostStage::output: return QObject::tr("Handing it to the device");
    }
    return {};
}

} // namespace

CostDialog::CostDialog(Session& session, Playback& playback, QWidget* parent)
    : QDialog(parent), session_(session), playback_(playback), by_(new QComboBox), table_(new QTableWidget(0, 7)),
      whole_(new QLabel)
{
    setObjectName("cost");
    setWindowTitle(tr("What it costs"));
    resize(760, 480);
    by_->setObjectName("costBy");
    by_->setAccessibleName(tr("Rows"));
    by_->addItems({tr("by stage"), tr("by sound"), tr("by kind of work and effect")});
    table_->setObjectName("costTable");
    table_->setAccessibleName(tr("Shares of one processor core"));
    table_->setHorizontalHeaderLabels(
        {tr("What"), tr("now"), tr("mean"), tr("most"), tr("copies"), tr("memory"), tr("the last minute")});
    table_->verticalHeader()->hide();
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSortingEnabled(true);
    table_->sortByColumn(Column::now, Qt::DescendingOrder);
    table_->setItemDelegateForColumn(Column::minute, new MinuteDelegate(table_));
    table_->horizontalHeader()->setSectionResizeMode(Column::name, QHeaderView::Stretch);
    for (const int column : {Column::now, Column::mean, Column::most, Column::voices, Column::memory}) {
        table_->setColumnWidth(column, 76);
    }
    table_->setColumnWidth(Column::minute, 150);
    whole_->setObjectName("costWhole");
    whole_->setFont(theme::number(9));
    auto* top = new QHBoxLayout;
    top->addWidget(by_);
    top->addStretch();
    top->addWidget(whole_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* box = new QVBoxLayout(this);
    box->addWidget(
        theme::explained(tr("Shares of one processor core while you listen, measured twice a second. A stage's time is "
                            "shared out by the work that was counted, so that the rows of one kind make up the whole.")));
    box->addLayout(top);
    box->addWidget(table_, 1);
    box->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(by_, &QComboBox::activated, this, [this] {
        shown_.reset();
        refresh();
    });
    connect(&playback_, &Playback::ticked, this, [this] {
        const auto& entries = playback_.costHistory().entries();
        if (isVisible() && !entries.empty() && entries.back().costs != shown_) {
            refresh();
        }
    });
    refresh();
}

double CostDialog::bytesOf(const Sound& sound) const
{
    double bytes = 0.0;
    for (std::size_t file = 0; file < sound.files.size(); ++file) {
        const auto entry = session_.soundEntry(sound, file);
        bytes += entry.buffer ? static_cast<double>(entry.buffer->bytes()) : 0.0;
    }
    return bytes;
}

std::vector<CostDialog::Row> CostDialog::rows() const
{
    const auto& entries = playback_.costHistory().entries();
    std::vector<Row> rows;
    const auto history = [&](auto&& seconds) {
        std::vector<double> all;
        for (const CostHistory::Entry& entry : entries) {
            all.push_back(100.0 * seconds(entry));
        }
        return all;
    };
    // What the engine does is related to the sound that it made, the rest to the time that went by.
    const auto ofSpan = [](const CostHistory::Entry& entry, double seconds) {
        return entry.costs->span_s > 0.0 ? seconds / entry.costs->span_s : 0.0;
    };
    switch (static_cast<By>(by_->currentIndex())) {
    case By::stage:
        for (std::size_t i = 0; i < costStages; ++i) {
            const auto stage = static_cast<CostStage>(i);
            rows.push_back({tr(nameOf(stage)), explanationOf(stage),
                            history([&](const auto& entry) { return ofSpan(entry, entry.costs->of(stage)); })});
        }
        rows.push_back({tr("window"), tr("Drawing and answering to mouse and keys"),
                        history([](const auto& entry) { return entry.window_s / std::max(entry.wall_s, 1e-3); })});
        rows.push_back({tr("all else"), tr("The device, loading, what is reckoned beside"),
                        history([](const auto& entry) { return entry.rest_s() / std::max(entry.wall_s, 1e-3); })});
        break;
    case By::sound:
        for (const auto& sound : session_.project().sounds) {
            Row row{QString::fromStdString(sound->name), {}, history([&](const auto& entry) {
                        for (const Costs::OfSound& of : entry.costs->sounds) {
                            if (of.sound == sound->id) {
                                return ofSpan(entry, of.seconds);
                            }
                        }
                        return 0.0;
                    })};
            row.voices = 0.0;
            if (!entries.empty()) {
                for (const Costs::OfSound& of : entries.back().costs->sounds) {
                    row.voices += of.sound == sound->id ? of.voices : 0.0;
                }
            }
            row.bytes = bytesOf(*sound);
            rows.push_back(std::move(row));
        }
        break;
    case By::work:
        for (std::size_t i = 0; i < workKinds; ++i) {
            const auto work = static_cast<Work>(i);
            rows.push_back(
                {tr(nameOf(work)), {}, history([&](const auto& entry) { return ofSpan(entry, entry.costs->of(work)); })});
        }
        break;
    }
    return rows;
}

double CostDialog::share(const QString& name) const
{
    for (int row = 0; row < table_->rowCount(); ++row) {
        if (table_->item(row, Column::name)->text() == name) {
            return dynamic_cast<const NumberItem*>(table_->item(row, Column::now))->value();
        }
    }
    return 0.0;
}

void CostDialog::refresh()
{
    const auto& entries = playback_.costHistory().entries();
    shown_ = entries.empty() ? nullptr : entries.back().costs;
    const std::vector<Row> all = rows();
    const QString chosen = table_->currentRow() >= 0 ? table_->item(table_->currentRow(), Column::name)->text() : QString();
    table_->setSortingEnabled(false);
    table_->setRowCount(static_cast<int>(all.size()));
    double sum = 0.0;
    for (int i = 0; i < table_->rowCount(); ++i) {
        const Row& row = all[static_cast<std::size_t>(i)];
        const auto& history = row.history_pct;
        const double last = history.empty() ? 0.0 : history.back();
        const double inMean =
            history.empty() ? 0.0 : std::accumulate(history.begin(), history.end(), 0.0) / static_cast<double>(history.size());
        const double highest = history.empty() ? 0.0 : *std::max_element(history.begin(), history.end());
        sum += last;
        auto* called = new QTableWidgetItem(row.name);
        called->setToolTip(row.explanation);
        table_->setItem(i, Column::name, called);
        table_->setItem(i, Column::now, new NumberItem(percent(last), last));
        table_->setItem(i, Column::mean, new NumberItem(percent(inMean), inMean));
        table_->setItem(i, Column::most, new NumberItem(percent(highest), highest));
        table_->setItem(i, Column::voices,
                        new NumberItem(row.voices < 0.0 ? QString() : QString::number(row.voices, 'f', 1), row.voices));
        table_->setItem(i, Column::memory,
                        new NumberItem(row.bytes < 0.0 ? QString() : tr("%1 MB").arg(row.bytes / 1e6, 0, 'f', 1), row.bytes));
        auto* line = new QTableWidgetItem;
        QList<QVariant> values;
        for (const double value : history) {
            values << value;
        }
        line->setData(Qt::UserRole, values);
        table_->setItem(i, Column::minute, line);
    }
    table_->setColumnHidden(Column::voices, by_->currentIndex() != static_cast<int>(By::sound));
    table_->setColumnHidden(Column::memory, by_->currentIndex() != static_cast<int>(By::sound));
    table_->setSortingEnabled(true);
    for (int i = 0; i < table_->rowCount() && !chosen.isEmpty(); ++i) {
        if (table_->item(i, Column::name)->text() == chosen) {
            table_->selectRow(i);
        }
    }
    whole_->setText(entries.empty() ? tr("Listen to see what it costs.") : tr("together %1 of a core").arg(percent(sum)));
}

} // namespace stone
