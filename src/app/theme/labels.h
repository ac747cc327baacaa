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

/// What stands over a part of a page.
inline QLabel* heading(const QString& words)
{
    auto* label = new QLabel(words);
    label->setFont(text(9.5, QFont::Bold));
    return label;
}

} // namespace stone::theme
