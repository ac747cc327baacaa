// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/widgets/cell_table.h"

#include "app/theme/theme.h"

#include <QHeaderView>
#include <QSignalBlocker>

#include <cmath>

namespace stone
{

CellTable::CellTable(const char* name, const QString& label, const std::vector<Column>& columns, QWidget* parent)
    : QTableWidget(parent)
{
    setObjectName(name);
    setAccessibleName(label);
    setColumnCount(static_cast<int>(columns.size()));
    horizontalHeader()->setMinimumSectionSize(20);
    for (int i = 0; i < columnCount(); ++i) {
        const Column& column = columns[static_cast<std::size_t>(i)];
        auto* head = new QTableWidgetItem(column.head);
        head->setToolTip(column.help);
        setHorizontalHeaderItem(i, head);
        setColumnWidth(i, column.width_px);
        words_.push_back(column.words);
    }
    horizontalHeader()->setStretchLastSection(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    horizontalHeader()->setFont(theme::text(8));
    verticalHeader()->setDefaultSectionSize(20);
    verticalHeader()->setFont(theme::number(7.5));
    setFont(theme::number(7.5));
    setStyleSheet("QTableView::item { padding: 0 2px; } QHeaderView::section { padding: 1px; }");
    connect(this, &QTableWidget::cellChanged, this,
            [this](int row, int column) { emit typed(row, column, item(row, column)->text().trimmed()); });
}

void CellTable::showRows(const std::vector<QStringList>& rows)
{
    const QSignalBlocker quiet(this);
    setRowCount(static_cast<int>(rows.size()));
    for (int row = 0; row < rowCount(); ++row) {
        for (int column = 0; column < columnCount(); ++column) {
            QTableWidgetItem* cell = item(row, column);
            if (cell == nullptr) {
                cell = new QTableWidgetItem;
                const bool words = words_[static_cast<std::size_t>(column)];
                cell->setTextAlignment((words ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter);
                setItem(row, column, cell);
            }
            cell->setText(rows[static_cast<std::size_t>(row)][column]);
        }
    }
}

QString CellTable::shortNumber(double number)
{
    return QString::number(std::round(number * 100.0) / 100.0, 'g', 8);
}

std::optional<double> CellTable::numberIn(const QString& text)
{
    bool good = false;
    const double number = QString(text).replace(',', '.').trimmed().toDouble(&good);
    return good && std::isfinite(number) ? std::optional(number) : std::nullopt;
}

} // namespace stone
