// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"

#include <QComboBox>
#include <QLabel>
#include <QToolButton>

namespace stone
{

/// To which family and which pattern the thing on the bench belongs, and what of it is its own.
class PatternRow : public QWidget
{
    Q_OBJECT

public:
    explicit PatternRow(Session& session, QWidget* parent = nullptr);
    void refresh();

private:
    void choosePattern(int index);
    void fillMenu();

    Session& session_;
    QComboBox* family_;
    QComboBox* pattern_;
    QToolButton* own_;
};

} // namespace stone
