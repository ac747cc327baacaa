// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>
#include <QWidget>

#include <filesystem>
#include <functional>

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
    /// The folder that was written to last, as `kept` has it; the first time one called `name` in the project's, if it has one.
    void present(const QString& kept, const std::filesystem::path& project, const QString& name);

signals:
    void changed();

private:
    QLineEdit* field_;
};

/// The end of a tab that writes for a while: its words, how far it is, and the button that begins it and stops it.
class WritingRow : public QWidget
{
    Q_OBJECT

public:
    /// `key`: its parts are called KEYWords, KEYProgress and KEYWrite.
    explicit WritingRow(const QString& key, QWidget* parent = nullptr);

    void say(const QString& words) { words_->setText(words); }
    /// What the button does when nothing is written, and whether it may.
    void offer(const QString& what, bool may);
    /// From now on it is being written, and shows how much of `all` is done.
    void begin(int all, std::function<int()> done);
    /// No longer.
    void end();

signals:
    /// The button was clicked: to begin, or to stop what was begun.
    void clicked();

private:
    QLabel* words_;
    QProgressBar* progress_;
    QPushButton* button_;
    std::function<int()> done_;
    QTimer watch_;
};

/// A list of files that is read and not typed into: the first column takes what room there is.
QTableWidget* fileList(const QString& name, const QString& label, const QStringList& heads);
/// A cell of it; numbers stand on the right.
QTableWidgetItem* fileCell(const QString& text, bool number = false);

} // namespace stone
