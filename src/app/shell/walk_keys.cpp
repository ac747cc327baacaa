// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/walk_keys.h"

#include <QAbstractSpinBox>
#include <QApplication>
#include <QComboBox>
#include <QKeyEvent>
#include <QLineEdit>

namespace stone
{

namespace
{

bool isTyping(const QWidget* widget)
{
    return qobject_cast<const QLineEdit*>(widget) != nullptr || qobject_cast<const QAbstractSpinBox*>(widget) != nullptr ||
           qobject_cast<const QComboBox*>(widget) != nullptr;
}

} // namespace

WalkKeys::WalkKeys(Playback& playback, QWidget& window, QWidget& plan)
    : QObject(&window), playback_(playback), window_(window), plan_(plan)
{
    qApp->installEventFilter(this);
}

bool WalkKeys::takes(const QKeyEvent& event) const
{
    if (event.modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier)) {
        return false;
    }
    const QWidget* focus = QApplication::focusWidget();
    if (QApplication::activeModalWidget() != nullptr || QApplication::activePopupWidget() != nullptr || isTyping(focus)) {
        return false;
    }
    switch (event.key()) {
    case Qt::Key_W:
    case Qt::Key_A:
    case Qt::Key_S:
    case Qt::Key_D:
    case Qt::Key_Q:
    case Qt::Key_E: return true;
    // Otherwise they switch storeys.
    case Qt::Key_PageUp:
    case Qt::Key_PageDown: return playback_.flight() != Flight::none;
    case Qt::Key_Up:
    case Qt::Key_Down:
    case Qt::Key_Left:
    case Qt::Key_Right: return focus == &plan_;
    default: return false;
    }
}

bool WalkKeys::eventFilter(QObject* watched, QEvent* event)
{
    if (event->type() == QEvent::KeyPress || event->type() == QEvent::ShortcutOverride) {
        auto* key = static_cast<QKeyEvent*>(event);
        shift_ = key->modifiers().testFlag(Qt::ShiftModifier);
        const auto* widget = qobject_cast<QWidget*>(watched);
        if (widget != nullptr && widget->window() == &window_ && takes(*key)) {
            if (event->type() == QEvent::KeyPress) {
                held_.insert(key->key());
                update();
            }
            event->accept();
            return true;
        }
    } else if (event->type() == QEvent::KeyRelease) {
        auto* key = static_cast<QKeyEvent*>(event);
        if (!key->isAutoRepeat() && held_.remove(key->key())) {
            update();
            return true;
        }
        if (key->key() == Qt::Key_Shift) {
            shift_ = false;
            update();
        }
    } else if (event->type() == QEvent::WindowDeactivate && watched == &window_) {
        held_.clear();
        update();
    }
    return QObject::eventFilter(watched, event);
}

void WalkKeys::update()
{
    const auto held = [this](int a, int b = 0) { return held_.contains(a) || (b != 0 && held_.contains(b)) ? 1 : 0; };
    WalkInput input;
    input.ahead = held(Qt::Key_W, Qt::Key_Up) - held(Qt::Key_S, Qt::Key_Down);
    input.right = held(Qt::Key_D) - held(Qt::Key_A);
    input.turn = held(Qt::Key_E, Qt::Key_Right) - held(Qt::Key_Q, Qt::Key_Left);
    input.up = held(Qt::Key_PageUp) - held(Qt::Key_PageDown);
    input.fast = shift_;
    playback_.setWalkInput(input);
}

} // namespace stone
