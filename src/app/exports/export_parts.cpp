// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/export_parts.h"

#include "app/theme/theme.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>

namespace stone
{

FolderRow::FolderRow(const QString& key, const QString& title, QWidget* parent) : QWidget(parent), field_(new QLineEdit)
{
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    auto* choose = new QPushButton(tr("Folder…"));
    choose->setObjectName(key + "Choose");
    field_->setObjectName(key + "Folder");
    field_->setAccessibleName(tr("Folder"));
    row->addWidget(choose);
    row->addWidget(field_, 1);
    connect(choose, &QPushButton::clicked, this, [this, title] {
        const QString chosen = QFileDialog::getExistingDirectory(this, title, text());
        if (!chosen.isEmpty()) {
            setText(chosen);
        }
    });
    connect(field_, &QLineEdit::textChanged, this, &FolderRow::changed);
}

QTableWidget* fileList(const QString& name, const QString& label, const QStringList& heads)
{
    auto* list = new QTableWidget(0, static_cast<int>(heads.size()));
    list->setObjectName(name);
    list->setAccessibleName(label);
    list->setHorizontalHeaderLabels(heads);
    list->verticalHeader()->hide();
    list->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    list->setSelectionMode(QAbstractItemView::NoSelection);
    list->setMinimumSize(520, 120);
    return list;
}

QTableWidgetItem* fileCell(const QString& text, bool number)
{
    auto* cell = new QTableWidgetItem(text);
    cell->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
    if (number) {
        cell->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        cell->setFont(theme::number(9));
    }
    return cell;
}

} // namespace stone
