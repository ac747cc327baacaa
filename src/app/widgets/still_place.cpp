// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/widgets/still_place.h"

#include <QLabel>
#include <QResizeEvent>

#include <algorithm>

namespace stone
{

StillPlace::StillPlace(QLabel* label, QWidget* parent) : QWidget(parent), label_(label)
{
    label_->setParent(this);
    setSizePolicy(label_->wordWrap() ? QSizePolicy::Preferred : QSizePolicy::Fixed, QSizePolicy::Fixed);
    setMinimumSize(needed());
}

QSize StillPlace::needed() const
{
    if (label_->wordWrap()) {
        // One that was never given words has no height for a width.
        return {label_->minimumWidth(), std::max(label_->minimumHeight(), label_->heightForWidth(width()))};
    }
    return label_->sizeHint().expandedTo(label_->minimumSize());
}

bool StillPlace::event(QEvent* event)
{
    // The label tells so that other words are in it; there is no layout here that would tell those above.
    if (event->type() == QEvent::LayoutRequest) {
        setMinimumSize(needed().expandedTo(minimumSize()));
    }
    return QWidget::event(event);
}

void StillPlace::resizeEvent(QResizeEvent* event)
{
    QWidget::resizeEvent(event);
    label_->setGeometry(rect());
    if (label_->wordWrap() && event->size().width() != event->oldSize().width()) {
        setMinimumSize(needed());
    }
}

} // namespace stone
