// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDialog>
#include <QLineEdit>
#include <QTextBrowser>

namespace stone
{

/// The user guide inside the program, to be searched.
class GuideWindow : public QDialog
{
    Q_OBJECT

public:
    /// `file`: the guide as Markdown, its pictures beside it.
    explicit GuideWindow(const QString& file, QWidget* parent = nullptr);

private:
    void find(bool backwards);

    QTextBrowser* text_;
    QLineEdit* wanted_;
};

/// What to send along when something goes wrong: versions of the program and of what it is built on, the system, the output.
QString reportOf(const QString& output);

} // namespace stone
