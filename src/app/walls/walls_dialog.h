// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"
#include "app/widgets/number_field.h"

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QTableWidget>

namespace stone
{

/// The surfaces of the level with the materials that they are taken for, and how walls are reckoned with in the project.
class WallsDialog : public QDialog
{
    Q_OBJECT

public:
    explicit WallsDialog(Session& session, QWidget* parent = nullptr);

private:
    QWidget* makeSettings();
    void refresh();
    void refreshRow(int row);
    void choose(const std::string& surface, const MaterialId& chosen);
    void change(const QString& what, const QString& gesture, const std::function<void(Occlusion&)>& change);
    void tell();

    Session& session_;
    QTableWidget* table_;
    QLabel* about_;
    struct Row {
        std::string surface;
        double area_m2;
    };
    std::vector<Row> surfaces_; ///< those that something is made of, the largest first
    std::vector<std::function<void()>> shows_;
};

} // namespace stone
