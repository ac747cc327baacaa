// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/tables_tab.h"

#include "analysis/findings.h"
#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "exports/tables.h"
#include "project/atomic_file.h"
#include "project/file_error.h"

#include <QFile>
#include <QFileInfo>
#include <QLocale>
#include <QSettings>
#include <QVBoxLayout>
#include <QtConcurrent>

#include <filesystem>

namespace stone
{

namespace
{

const QString folderKey = QStringLiteral("export/folder");

std::vector<CsvTable> tablesFor(const std::shared_ptr<const Project>& project, const std::filesystem::path& folder)
{
    std::vector<std::shared_ptr<const Ground>> grounds;
    for (const LevelGeometry& geometry : readGeometry(*project, folder)) {
        grounds.push_back(geometry.ground);
    }
    return tablesOf(project, grounds);
}

} // namespace

TablesTab::TablesTab(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), list_(fileList("exportTables", tr("Tables"), {tr("table"), tr("rows"), tr("size")})),
      folder_(new FolderRow("export", tr("A folder for the tables"))), end_(new WritingRow("export"))
{
    auto* box = new QVBoxLayout(this);
    box->setSpacing(8);
    box->addWidget(theme::explained(tr(
        "What the project says, as tables (CSV) for spreadsheets and other programs. Emitters and walks can be changed there "
        "and taken back in: File › Take tables in.")));
    box->addWidget(list_, 1);
    folder_->present(QSettings().value(folderKey).toString(), session_.folder(), "tables");
    box->addWidget(folder_);
    box->addWidget(end_);
    connect(end_, &WritingRow::clicked, this, &TablesTab::write);
    connect(folder_, &FolderRow::changed, this, &TablesTab::refresh);
    connect(list_, &QTableWidget::itemChanged, this, &TablesTab::refresh);
    connect(&making_, &QFutureWatcherBase::finished, this, [this] { show(making_.result()); });
    make();
}

TablesTab::~TablesTab()
{
    making_.waitForFinished();
}

void TablesTab::make()
{
    making_.setFuture(QtConcurrent::run(
        &workPool(), [project = session_.document(), folder = session_.folder()] { return tablesFor(project, folder); }));
    refresh();
}

void TablesTab::show(const std::vector<CsvTable>& tables)
{
    tables_ = tables;
    texts_.clear();
    const QSignalBlocker quiet(list_);
    list_->setRowCount(static_cast<int>(tables.size()));
    for (int i = 0; i < list_->rowCount(); ++i) {
        const CsvTable& table = tables[static_cast<std::size_t>(i)];
        texts_.push_back(table.text());
        auto* name = new QTableWidgetItem(QString::fromStdString(table.name) + ".csv");
        name->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable);
        name->setCheckState(table.rows.empty() ? Qt::Unchecked : Qt::Checked);
        list_->setItem(i, 0, name);
        list_->setItem(i, 1, fileCell(QLocale().toString(static_cast<qulonglong>(table.rows.size())), true));
        list_->setItem(i, 2, fileCell(QLocale().formattedDataSize(static_cast<qint64>(texts_.back().size())), true));
    }
    refresh();
}

std::vector<std::size_t> TablesTab::chosen() const
{
    std::vector<std::size_t> ticked;
    for (int i = 0; i < list_->rowCount(); ++i) {
        if (list_->item(i, 0)->checkState() == Qt::Checked) {
            ticked.push_back(static_cast<std::size_t>(i));
        }
    }
    return ticked;
}

void TablesTab::refresh()
{
    const auto ticked = chosen();
    qint64 bytes = 0;
    for (const std::size_t i : ticked) {
        bytes += static_cast<qint64>(texts_[i].size());
    }
    const QString folder = folder_->text();
    end_->offer(tr("Write"), !ticked.empty() && !folder.isEmpty());
    end_->say(tables_.empty()  ? tr("Being put together…")
              : ticked.empty() ? tr("Tick the tables that are to be written.")
              : folder.isEmpty()
                  ? tr("Choose a folder for them.")
                  : tr("%1 in %n files. Files of these names there are replaced.", nullptr, static_cast<int>(ticked.size()))
                        .arg(QLocale().formattedDataSize(bytes)));
}

void TablesTab::write()
{
    const std::filesystem::path folder = folder_->folder();
    try {
        std::filesystem::create_directories(folder);
        for (const std::size_t i : chosen()) {
            writeAtomically(folder / (tables_[i].name + ".csv"), texts_[i]);
        }
    } catch (const std::exception& error) { // FileError and filesystem_error say which file, and why
        end_->say(QString::fromUtf8(error.what()));
        return;
    }
    QSettings().setValue(folderKey, folder_->text());
    end_->say(tr("Written to %1.").arg(QString::fromStdString(folder.string())));
}

QString takeTablesIn(Session& session, const QStringList& files)
{
    Project project = session.project();
    int changed = 0;
    int added = 0;
    int planted = 0;
    try {
        for (const QString& name : files) {
            QFile file(name);
            if (!file.open(QIODevice::ReadOnly)) {
                throw FileError((name + ": " + file.errorString()).toStdString());
            }
            TakenIn taken =
                withTable(project, readCsv(file.readAll().toStdString(), QFileInfo(name).completeBaseName().toStdString()));
            project = std::move(taken.project);
            changed += taken.changed;
            added += taken.added;
            planted += taken.planted;
        }
    } catch (const FileError& error) {
        emit session.failed(TablesTab::tr("%1. Nothing was changed").arg(QString::fromUtf8(error.what())));
        return {};
    }
    const QString words = TablesTab::tr("%1 changed, %2 new").arg(changed).arg(added);
    if (changed + added > 0) {
        session.edit(std::move(project), TablesTab::tr("Take tables in: %1").arg(words));
    }
    return planted > 0 ? TablesTab::tr("%1; %2 planted by rules are left to them.").arg(words).arg(planted) : words + '.';
}

} // namespace stone
