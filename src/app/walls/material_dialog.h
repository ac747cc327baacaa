// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"
#include "app/widgets/number_field.h"

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

#include <array>

namespace stone
{

/// The project's own materials: what they are called, which surfaces take them by their names, and what they do to sound in
/// each band.
class MaterialDialog : public QDialog
{
    Q_OBJECT

public:
    explicit MaterialDialog(Session& session, QWidget* parent = nullptr);

    /// Adds one that is like another, under a name of its own, and shows it.
    void add(const Material& like);

private:
    QWidget* makeFields();
    void refresh();
    void remove();
    const Material* current() const;
    void edit(const QString& what, const QString& gesture, const std::function<void(Material&)>& change);

    using BandFields = std::array<NumberField*, std::tuple_size_v<BandValues>>;

    Session& session_;
    MaterialId chosen_;
    QListWidget* list_;
    QPushButton* remove_;
    QWidget* fields_ = nullptr;
    QLineEdit* name_ = nullptr;
    QLineEdit* words_ = nullptr;
    QLineEdit* source_ = nullptr;
    NumberField* sheet_ = nullptr;
    NumberField* solid_ = nullptr;
    QCheckBox* byMass_ = nullptr;
    BandFields absorption_{};
    BandFields loss_{};
    QLabel* users_ = nullptr;
};

} // namespace stone
