// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/exports/export_parts.h"
#include "app/session/session.h"
#include "exports/csv.h"

#include <QFutureWatcher>
#include <QWidget>

#include <vector>

namespace stone
{

/// What the project says, for other programs: which tables there are, how long and how large each is, and where they go. What
/// plant rules put is planted on a thread of the pool meanwhile; nothing is written before it is asked for.
class TablesTab : public QWidget
{
    Q_OBJECT

public:
    explicit TablesTab(Session& session, QWidget* parent = nullptr);
    /// Waits for what is being made.
    ~TablesTab() override;

private:
    void make();
    void show(const std::vector<CsvTable>& tables);
    void refresh();
    void write();
    /// The tables that are ticked.
    std::vector<std::size_t> chosen() const;

    Session& session_;
    QTableWidget* list_;
    FolderRow* folder_;
    WritingRow* end_;
    std::vector<CsvTable> tables_;
    std::vector<std::string> texts_;
    QFutureWatcher<std::vector<CsvTable>> making_;
};

/// Takes tables of emitters and walks back in, as one step of the history, and says in words what that changed; nothing where
/// it cannot be done, which Session::failed() says.
QString takeTablesIn(Session& session, const QStringList& files);

} // namespace stone
