// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>

#include <functional>
#include <optional>
#include <utility>
#include <vector>

namespace stone
{

/// Everything in the project that has a name, by kind, with who uses it: renamed in its row, deleted by key or button.
class NamesDialog : public QDialog
{
    Q_OBJECT

public:
    explicit NamesDialog(Session& session, QWidget* parent = nullptr);

private:
    struct Named {
        QString name;
        QStringList users;
    };
    /// Things of one kind.
    struct Kind {
        QString one;
        QString many;
        std::function<std::vector<Named>(const Project&)> list;
        std::function<void(Project&, std::size_t, const std::string&)> rename;
        std::function<void(Project&, std::size_t)> remove;
    };

    void makeProjectKinds();
    void makeLevelKinds();
    void refresh();
    /// Which kind and which of them is marked; none: a heading is.
    std::optional<std::pair<std::size_t, std::size_t>> current() const;
    void renamed(QTreeWidgetItem* item, int column);
    void removeCurrent();
    void tellUsers();

    Session& session_;
    std::vector<Kind> kinds_;
    QTreeWidget* tree_;
    QLabel* users_;
    QPushButton* remove_;
};

} // namespace stone
