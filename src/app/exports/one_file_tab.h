// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"

#include <QFutureWatcher>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include <filesystem>
#include <functional>

namespace stone
{

/// Something that is written as one file: what goes into it is seen before it is written. Put together on a thread of the
/// pool.
class OneFileTab : public QWidget
{
    Q_OBJECT

public:
    struct Made {
        std::string bytes;
        QString words; ///< what is in it, as rich text
    };
    struct Kind {
        QString key;        ///< its widgets are called KEYWhat, KEYWords, KEYWrite, KEYOpen, its place is kept under it
        QString explained;  ///< what it is, in a few lines
        QString ending;     ///< of its files, with the point
        QString filter;     ///< the same as a file dialog has it
        QString title;      ///< of that dialog
        bool opens = false; ///< offers to open what was written with the program of the desktop
        /// Readies making it, on the window's thread; what is returned makes it, on another. `folder`: into which it will go.
        std::function<std::function<Made()>(const std::filesystem::path& folder)> ready;
    };

    OneFileTab(Session& session, Kind kind, QWidget* parent = nullptr);
    /// Waits for what is being made.
    ~OneFileTab() override;

    /// Writes it, as soon as it is put together; says in its words what came of that.
    void writeTo(const QString& file);

private:
    void make();
    void made();
    void write();
    void choose();
    QString usualFile() const;

    Session& session_;
    const Kind kind_;
    QLabel* what_;
    QLabel* words_;
    QPushButton* open_;
    QPushButton* write_;
    QString file_;        ///< for which it was made: things beside it are named from where it lies
    bool wanted_ = false; ///< to be written when it is made
    bool making_ = false;
    QFutureWatcher<Made> watcher_;
};

/// The level that is shown as one glTF file, with its geometry and its emitters.
OneFileTab* levelTab(Session& session);
/// The same as a page for a browser, in which others walk and listen.
OneFileTab* pageTab(Session& session);

} // namespace stone
