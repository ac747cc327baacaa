// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/export_parts.h"

#include "app/theme/theme.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include <utility>

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
            field_->setText(chosen);
        }
    });
    connect(field_, &QLineEdit::textChanged, this, &FolderRow::changed);
}

void FolderRow::present(const QString& kept, const std::filesystem::path& project, const QString& name)
{
    const QString first = project.empty() ? QString() : QString::fromStdString(project.string()) + '/' + name;
    field_->setText(kept.isEmpty() ? first : kept);
}

WritingRow::WritingRow(const QString& key, QWidget* parent)
    : QWidget(parent), words_(new QLabel), progress_(new QProgressBar), button_(new QPushButton)
{
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    words_->setObjectName(key + "Words");
    words_->setWordWrap(true);
    box->addWidget(words_);
    auto* row = new QHBoxLayout;
    progress_->setObjectName(key + "Progress");
    progress_->hide();
    button_->setObjectName(key + "Write");
    row->addWidget(progress_, 1);
    row->addStretch();
    row->addWidget(button_);
    box->addLayout(row);
    constexpr int often_ms = 100;
    watch_.setInterval(often_ms);
    connect(&watch_, &QTimer::timeout, this, [this] { progress_->setValue(done_()); });
    connect(button_, &QPushButton::clicked, this, &WritingRow::clicked);
}

void WritingRow::offer(const QString& what, bool may)
{
    button_->setText(done_ ? tr("Stop") : what);
    button_->setEnabled(done_ || may);
}

void WritingRow::begin(int all, std::function<int()> done)
{
    done_ = std::move(done);
    progress_->setRange(0, all);
    progress_->setValue(0);
    progress_->show();
    watch_.start();
}

void WritingRow::end()
{
    watch_.stop();
    progress_->hide();
    done_ = {};
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
