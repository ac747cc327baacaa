// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLayout>
#include <QWidget>

#include <utility>

namespace stone
{

/// Fills a widget anew by `build`. What was in it may be what asked for this, so it goes a little later; what had the focus
/// has it again if something of the same name has come.
template <class Build> void rebuilt(QWidget* list, Build&& build)
{
    const QWidget* focused = list->window()->focusWidget();
    const QString name = focused != nullptr && list->isAncestorOf(focused) ? focused->objectName() : QString();
    delete list->layout();
    for (QWidget* old : list->findChildren<QWidget*>(Qt::FindDirectChildrenOnly)) {
        old->hide();
        old->setParent(nullptr);
        old->deleteLater();
    }
    std::forward<Build>(build)();
    if (auto* again = name.isEmpty() ? nullptr : list->findChild<QWidget*>(name)) {
        again->setFocus();
    }
}

} // namespace stone
