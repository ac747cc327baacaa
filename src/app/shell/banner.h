// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include <functional>

namespace stone
{

/// One message over the work, with what can be done about it. A new one takes the place of the old.
class Banner : public QWidget
{
    Q_OBJECT

public:
    explicit Banner(QWidget* parent = nullptr);

    void say(const QString& message, const QString& action = {}, std::function<void()> act = {});
    /// Puts it over the work with its lower left corner there, as high as its words need.
    void lieAbove(const QPoint& corner, int width);
    QString message() const { return text_->text(); }

signals:
    /// It says something else: it may be higher or lower than before.
    void said();

private:
    QLabel* text_;
    QPushButton* action_;
    std::function<void()> act_;
};

} // namespace stone
