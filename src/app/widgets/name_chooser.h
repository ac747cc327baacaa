// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>

namespace stone
{

/// A list that hangs open, of names that people gave: one that is longer than there is room for ends in dots, and is shown
/// whole in the list and under the pointer.
class NameChooser : public QComboBox
{
    Q_OBJECT

public:
    using QComboBox::QComboBox;

protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;
    void showPopup() override;
};

} // namespace stone
