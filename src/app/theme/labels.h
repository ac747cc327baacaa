// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/theme/theme.h"

#include <QLabel>

namespace stone::theme
{

/// A small, soft line: what stands over a field, or explains beside it.
inline QLabel* caption(const QString& words)
{
    auto* label = new QLabel(words);
    label->setFont(text(8));
    label->setStyleSheet("color: " + soft.name());
    return label;
}

/// The same over a field, which is called so by whoever reads the screen aloud.
inline QLabel* caption(const QString& words, QWidget* of)
{
    QLabel* label = caption(words);
    label->setBuddy(of);
    of->setAccessibleName(words);
    return label;
}

/// What needs a sentence: as many lines as it takes.
inline QLabel* explained(const QString& words)
{
    QLabel* label = caption(words);
    label->setWordWrap(true);
    return label;
}

/// What stands over a part of a page.
inline QLabel* heading(const QString& words)
{
    auto* label = new QLabel(words);
    label->setFont(text(9.5, QFont::Bold));
    return label;
}

} // namespace stone::theme
