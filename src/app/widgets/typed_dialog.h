// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDialog>
#include <QPushButton>

namespace stone
{

/// In a dialog with fields Enter ends what is typed, and nothing else: no button takes it. After its buttons were made.
inline void enterEndsTyping(QDialog* dialog)
{
    for (QPushButton* button : dialog->findChildren<QPushButton*>()) {
        button->setAutoDefault(false);
        button->setDefault(false);
    }
}

} // namespace stone
