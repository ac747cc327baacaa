// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLineEdit>
#include <QTableWidget>
#include <QWidget>

#include <filesystem>

namespace stone
{

/// Where files are written to: typed, or chosen from the disk.
class FolderRow : public QWidget
{
    Q_OBJECT

public:
    /// `key`: the field is called KEYFolder, the button KEYChoose; `title`: of the dialog.
    FolderRow(const QString& key, const QString& title, QWidget* parent = nullptr);

    QString text() const { return field_->text().trimmed(); }
    std::filesystem::path folder() const { return text().toStdString(); }
    void setText(const QString& folder) { field_->setText(folder); }

signals:
    void changed();

private:
    QLineEdit* field_;
};

/// A list of files that is read and not typed into: the first column takes what room there is.
QTableWidget* fileList(const QString& name, const QString& label, const QStringList& heads);
/// A cell of it; numbers stand on the right.
QTableWidgetItem* fileCell(const QString& text, bool number = false);

} // namespace stone
