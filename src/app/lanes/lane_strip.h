// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lanes/lane_scale.h"

#include <qcustomplot.h>

#include <optional>

namespace stone
{

/// One lane, large: its curve over a ruler, with handles that are dragged, or moved by the arrow keys once chosen with
/// Tab, and the place on the ruler where the ears are. A double click adds a control point to a curve, Delete takes one
/// out. Other lanes can lie behind it, each in its own measure.
class LaneStrip : public QCustomPlot
{
    Q_OBJECT

public:
    struct Shown {
        Lane lane;
        std::optional<double> place; ///< of the ears on the ruler
        std::optional<Lane> ghost;   ///< what it is compared with
        std::optional<Lane> over;    ///< another property laid over it
        double ruler = 0.0;          ///< where a ruler of distances or speeds ends; 0: as this lane needs it

        bool operator==(const Shown&) const = default;
    };

    explicit LaneStrip(QWidget* parent = nullptr);

    void showLane(const Shown& shown);
    /// The handle that is chosen; -1 while it is the ears' place.
    int chosen() const { return chosen_; }
    void choose(int handle);

    int handleCount() const { return static_cast<int>(handlesOf(shown_.lane).size()); }

    /// Where things are drawn, in the strip's pixels. For tests and tool tips.
    QPointF handlePlace(int handle) const;
    QPointF earsPlace() const;

signals:
    /// A handle was moved, or a point added or taken out. `gesture` is the same for one drag, empty for single steps.
    void laneEdited(const Lane& lane, const QString& what, const QString& gesture);
    void gestureEnded();
    void chosenChanged();
    /// The ears' place is being dragged, and was let go.
    void placeDragged(double x);
    void placeReleased();

protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool focusNextPrevChild(bool next) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    bool event(QEvent* event) override;
    void showEvent(QShowEvent* event) override;

private:
    static constexpr int nothing = -2;
    static constexpr int ears = -1;

    int handleAt(const QPointF& at) const;
    void move(int handle, double x, double y, const QString& gesture);
    void addPoint(double x);
    void removePoint();
    void layOutAxes();
    /// Draws all of it, once it is seen.
    void redraw();
    void placeEars();
    void plot(QCPGraph* graph, const Lane& lane, bool ownMeasure) const;

    Shown shown_;
    bool drawn_ = false; ///< what is shown is in the picture
    int dragged_ = nothing;
    int chosen_ = 0;
    int drags_ = 0;
    lanes::Stretch ruler_{0.0, 10.0}; ///< held during a drag
    QCPGraph* over_;
    QCPGraph* ghost_;
    QCPGraph* curve_;
    QCPGraph* ground_;
    QCPGraph* handles_;
    QCPGraph* focus_;
    QCPItemStraightLine* earsLine_;
    QCPItemTracer* earsDot_;
};

} // namespace stone
