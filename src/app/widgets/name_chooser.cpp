// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/widgets/name_chooser.h"

#include <QAbstractItemView>
#include <QEvent>
#include <QStyleOptionComboBox>
#include <QStylePainter>

#include <algorithm>

namespace stone
{

namespace
{

/// Beside the names in the list that hangs open.
constexpr int besideNames_px = 28;

} // namespace

void NameChooser::paintEvent(QPaintEvent*)
{
    QStylePainter painter(this);
    QStyleOptionComboBox option;
    initStyleOption(&option);
    painter.drawComplexControl(QStyle::CC_ComboBox, option);
    const QRect room = style()->subControlRect(QStyle::CC_ComboBox, &option, QStyle::SC_ComboBoxEditField, this);
    option.currentText =
        fontMetrics().elidedText(currentIndex() < 0 ? placeholderText() : option.currentText, Qt::ElideRight, room.width() - 4);
    painter.drawControl(QStyle::CE_ComboBoxLabel, option);
}

bool NameChooser::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip) {
        setToolTip(currentText());
    }
    return QComboBox::event(event);
}

void NameChooser::showPopup()
{
    int widest = 0;
    for (int i = 0; i < count(); ++i) {
        widest = std::max(widest, fontMetrics().horizontalAdvance(itemText(i)));
    }
    view()->setMinimumWidth(std::max(width(), widest + besideNames_px));
    QComboBox::showPopup();
}

} // namespace stone
