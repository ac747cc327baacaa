// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

class QLabel;

namespace stone
{

/// A place for a label whose words change many times a second: what is round it is laid out anew only where they need more room
/// than any before them.
class StillPlace : public QWidget
{
    Q_OBJECT

public:
    /// Takes the label over. One that wraps its words is as wide as it is made and as high as they need.
    explicit StillPlace(QLabel* label, QWidget* parent = nullptr);

    QSize sizeHint() const override { return minimumSize(); }

protected:
    bool event(QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    QSize needed() const;

    QLabel* label_;
};

} // namespace stone
