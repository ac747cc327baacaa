#pragma once

#include "project/document.h"

#include <qcustomplot.h>

#include <optional>

namespace stone
{

/// Level over distance as a strip over its ruler, with handles: where full level ends, where silence begins, and where
/// the ears are. The handles are dragged, or moved by the arrow keys once chosen with Tab.
class LaneStrip : public QCustomPlot
{
    Q_OBJECT

public:
    enum class Handle { none, full, silent, ears };

    explicit LaneStrip(QWidget* parent = nullptr);

    /// `ears_m`: how far the ears are; none for beds.
    void showLane(const DistanceFormula& formula, std::optional<double> ears_m);

    /// Where a handle is drawn, in the strip's pixels. For tests and tool tips.
    QPointF handlePlace(Handle handle) const;

signals:
    /// A handle was moved. `gesture` is the same for one drag, empty for a key press.
    void formulaMoved(const DistanceFormula& formula, const QString& gesture);
    void gestureEnded();
    void earsMoved(double distance_m);

protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool focusNextPrevChild(bool next) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    bool event(QEvent* event) override;

private:
    Handle handleAt(const QPointF& at) const;
    void moveHandle(Handle handle, double distance_m, const QString& gesture);
    void redraw();
    double level_db(double distance_m) const;
    double silentPlace_m() const;

    DistanceFormula formula_;
    std::optional<double> ears_m_;
    Handle dragged_ = Handle::none;
    Handle focused_ = Handle::full;
    int drags_ = 0;
    double shownTo_m_ = 10.0; ///< the ruler's end; held during a drag
    QCPGraph* curve_;
    QCPItemStraightLine* earsLine_;
    QCPItemTracer* earsDot_;
    QCPGraph* handles_;
    QCPGraph* focus_;
};

/// The formula with its silent end moved, whichever of its numbers that is.
DistanceFormula withSilentAt(DistanceFormula formula, double distance_m);
/// Where silence begins or, for a formula that never ends, where the level has fallen by 60 dB.
double silentOrFaint_m(const DistanceFormula& formula);

} // namespace stone
