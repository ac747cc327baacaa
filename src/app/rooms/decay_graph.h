// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/room.h"

#include <QWidget>

#include <optional>

namespace stone
{

/// RT60 by octave band on a logarithmic scale: points that are pulled up and down, and what the level suggests as a dashed
/// line.
class DecayGraph : public QWidget
{
    Q_OBJECT

public:
    explicit DecayGraph(QWidget* parent = nullptr);
    void present(const BandValues& rt60_s, const std::optional<BandValues>& suggested_s);
    /// Where a band's point is drawn.
    QPointF placeOf(std::size_t band) const;

signals:
    void edited(std::size_t band, double rt60_s);
    void editEnded();

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    QRectF area() const;
    double yOf(double rt60_s) const;
    double valueAt(double y) const;
    void nudge(double factor);

    BandValues rt60_s_{};
    std::optional<BandValues> suggested_s_;
    std::size_t band_ = 4; ///< that the keyboard moves
    bool dragging_ = false;
};

} // namespace stone
