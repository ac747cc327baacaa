// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>

#include <vector>

namespace stone
{

/// What changed since the last save, or since any step of the history, in the words of undo.
class ChangesDialog : public QDialog
{
    Q_OBJECT

public:
    explicit ChangesDialog(Session& session, QWidget* parent = nullptr);

private:
    void refreshStates();
    void refresh();
    const std::shared_ptr<const Project>& state() const;

    Session& session_;
    QComboBox* since_;
    QListWidget* list_;
    QLabel* count_;
    QPushButton* look_;
    std::vector<std::shared_ptr<const Project>> states_;
};

} // namespace stone
