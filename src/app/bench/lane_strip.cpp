#include "app/bench/lane_strip.h"

#include "acoustics/distance.h"
#include "app/theme/theme.h"
#include "dsp/decibel.h"

#include <QHelpEvent>
#include <QToolTip>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double floor_db = -60.0;
constexpr double grab_px = 11.0;
constexpr int points = 220;

/// The end of a ruler that shows a distance with some room behind it, at a round number.
double rulerFor(double distance_m)
{
    const double wanted = std::max(distance_m * 1.12, 1.0);
    const double power = std::pow(10.0, std::floor(std::log10(wanted)));
    for (const double step : {1.0, 1.2, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0}) {
        if (step * power >= wanted) {
            return step * power;
        }
    }
    return 10.0 * power;
}

} // namespace

DistanceFormula withSilentAt(DistanceFormula formula, double distance_m)
{
    if (formula.model == DistanceModel::linear && formula.factor >= 1.0) {
        formula.maximum_m = distance_m;
        formula.silentAt_m = formula.silentAt_m > 0.0 ? distance_m : 0.0;
    } else {
        formula.silentAt_m = distance_m;
    }
    return formula;
}

double silentOrFaint_m(const DistanceFormula& formula)
{
    const double silent = silentFrom_m(formula);
    return std::isfinite(silent) ? silent : distanceOfLevel_m(formula, floor_db);
}

LaneStrip::LaneStrip(QWidget* parent) : QCustomPlot(parent)
{
    setObjectName("levelLane");
    setAccessibleName(tr("Level over distance"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(150);
    setBackground(QBrush(theme::panel));
    axisRect()->setBackground(QBrush(Qt::white));
    axisRect()->setAutoMargins(QCP::msBottom);
    axisRect()->setMargins(QMargins(40, 8, 12, 0));
    for (QCPAxis* axis : {xAxis, yAxis}) {
        axis->setTickLabelFont(theme::number(7.5));
        axis->setTickLabelColor(theme::soft);
        axis->setBasePen(QPen(theme::line));
        axis->setTickPen(QPen(theme::line));
        axis->setSubTickPen(QPen(theme::line));
        axis->grid()->setPen(QPen(theme::grid, 1));
        axis->grid()->setZeroLinePen(Qt::NoPen);
    }
    yAxis->setRange(floor_db, 5.0);
    QSharedPointer<QCPAxisTickerFixed> twenty(new QCPAxisTickerFixed);
    twenty->setTickStep(20.0);
    yAxis->setTicker(twenty);
    yAxis->setSubTicks(false);

    curve_ = addGraph();
    curve_->setPen(QPen(theme::ochre, 2));
    QColor fill = theme::ochre;
    fill.setAlpha(34);
    auto* ground = addGraph();
    ground->setPen(Qt::NoPen);
    ground->addData(0.0, floor_db);
    ground->addData(1e7, floor_db);
    curve_->setBrush(fill);
    curve_->setChannelFillGraph(ground);

    focus_ = addGraph();
    focus_->setLineStyle(QCPGraph::lsNone);
    focus_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(theme::verdigris, 2), Qt::NoBrush, 17));
    handles_ = addGraph();
    handles_->setLineStyle(QCPGraph::lsNone);
    handles_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssTriangle, QPen(theme::ochre, 1.8), QBrush(Qt::white), 11));

    earsLine_ = new QCPItemStraightLine(this);
    earsLine_->setPen(QPen(theme::ink, 1, Qt::DotLine));
    earsDot_ = new QCPItemTracer(this);
    earsDot_->setStyle(QCPItemTracer::tsCircle);
    earsDot_->setSize(9);
    earsDot_->setPen(QPen(theme::ink, 1.5));
    earsDot_->setBrush(theme::ink);
}

double LaneStrip::level_db(double distance_m) const
{
    return levelOf(distanceGain(formula_, distance_m) * reachGain(formula_, distance_m));
}

double LaneStrip::silentPlace_m() const
{
    return silentOrFaint_m(formula_);
}

void LaneStrip::showLane(const DistanceFormula& formula, std::optional<double> ears_m)
{
    if (formula == formula_ && ears_m == ears_m_ && curve_->dataCount() > 0) {
        return;
    }
    formula_ = formula;
    ears_m_ = ears_m;
    if (dragged_ == Handle::none) {
        const double end = std::max(std::min(silentPlace_m(), 2000.0), fullUpTo_m(formula_));
        const double ears = std::min(ears_m.value_or(0.0), 1.6 * end);
        shownTo_m_ = rulerFor(std::max(end, ears));
    }
    redraw();
}

void LaneStrip::redraw()
{
    xAxis->setRange(0.0, shownTo_m_);
    QVector<double> x;
    QVector<double> y;
    for (int i = 0; i <= points; ++i) {
        const double d = shownTo_m_ * i / points;
        x << d;
        y << std::max(level_db(d), floor_db);
    }
    curve_->setData(x, y, true);
    const double full = fullUpTo_m(formula_);
    const double silent = silentPlace_m();
    handles_->setData({full, silent}, {std::max(level_db(full), floor_db), floor_db}, true);
    focus_->data()->clear();
    if (hasFocus()) {
        const double at = focused_ == Handle::full ? full : focused_ == Handle::silent ? silent : ears_m_.value_or(0.0);
        focus_->addData(at, focused_ == Handle::silent ? floor_db : std::max(level_db(at), floor_db));
    }
    earsLine_->setVisible(ears_m_.has_value());
    earsDot_->setVisible(ears_m_.has_value());
    if (ears_m_) {
        const double at = std::min(*ears_m_, shownTo_m_);
        earsLine_->point1->setCoords(at, 0.0);
        earsLine_->point2->setCoords(at, floor_db);
        earsDot_->position->setCoords(at, *ears_m_ > shownTo_m_ ? floor_db : std::max(level_db(at), floor_db));
    }
    replot(QCustomPlot::rpQueuedReplot);
}

QPointF LaneStrip::handlePlace(Handle handle) const
{
    const double at = handle == Handle::full     ? fullUpTo_m(formula_)
                      : handle == Handle::silent ? silentPlace_m()
                                                 : std::min(ears_m_.value_or(0.0), shownTo_m_);
    const double db = handle == Handle::silent ? floor_db : std::max(level_db(at), floor_db);
    return {xAxis->coordToPixel(at), yAxis->coordToPixel(db)};
}

LaneStrip::Handle LaneStrip::handleAt(const QPointF& at) const
{
    Handle best = Handle::none;
    double nearest = grab_px;
    for (const Handle handle : {Handle::full, Handle::silent}) {
        const QPointF offset = handlePlace(handle) - at;
        const double distance = std::hypot(offset.x(), offset.y());
        if (distance < nearest) {
            nearest = distance;
            best = handle;
        }
    }
    if (best == Handle::none && ears_m_ && std::abs(handlePlace(Handle::ears).x() - at.x()) < grab_px) {
        best = Handle::ears;
    }
    return best;
}

void LaneStrip::moveHandle(Handle handle, double distance_m, const QString& gesture)
{
    const double d = std::round(std::clamp(distance_m, 0.0, 1e5) * 100.0) / 100.0;
    DistanceFormula moved = formula_;
    if (handle == Handle::full) {
        // Past its own silence a full level means nothing; it stops just before.
        const double most = std::isfinite(silentFrom_m(formula_)) ? silentFrom_m(formula_) * 0.8 : 1e5;
        moved.reference_m = std::clamp(d, 0.05, std::max(most, 0.05));
        emit formulaMoved(moved, gesture);
    } else if (handle == Handle::silent) {
        emit formulaMoved(withSilentAt(formula_, std::max(d, std::max(fullUpTo_m(formula_), 0.05) * 1.25)), gesture);
    } else if (handle == Handle::ears) {
        emit earsMoved(d);
    }
}

void LaneStrip::mousePressEvent(QMouseEvent* event)
{
    dragged_ = handleAt(event->position());
    if (dragged_ != Handle::none) {
        focused_ = dragged_;
        ++drags_;
        redraw();
    }
}

void LaneStrip::mouseMoveEvent(QMouseEvent* event)
{
    if (dragged_ == Handle::none) {
        setCursor(handleAt(event->position()) == Handle::none ? Qt::ArrowCursor : Qt::SizeHorCursor);
        return;
    }
    moveHandle(dragged_, xAxis->pixelToCoord(event->position().x()), "lane drag " + QString::number(drags_));
}

void LaneStrip::mouseReleaseEvent(QMouseEvent*)
{
    if (dragged_ != Handle::none) {
        dragged_ = Handle::none;
        emit gestureEnded();
        const auto formula = formula_;
        formula_.reference_m = -1.0; // anything else: the ruler may fit itself again
        showLane(formula, ears_m_);
    }
}

void LaneStrip::keyPressEvent(QKeyEvent* event)
{
    const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
    if (way == 0) {
        QCustomPlot::keyPressEvent(event);
        return;
    }
    const double step = event->modifiers() & Qt::ShiftModifier ? 1.0 : 0.1;
    const double at = focused_ == Handle::full     ? fullUpTo_m(formula_)
                      : focused_ == Handle::silent ? silentPlace_m()
                                                   : ears_m_.value_or(0.0);
    moveHandle(focused_, at + way * step, {});
}

bool LaneStrip::focusNextPrevChild(bool next)
{
    // Tab goes through the handles before it leaves the strip.
    const int last = ears_m_ ? static_cast<int>(Handle::ears) : static_cast<int>(Handle::silent);
    const int target = static_cast<int>(focused_) + (next ? 1 : -1);
    if (target < static_cast<int>(Handle::full) || target > last) {
        return QCustomPlot::focusNextPrevChild(next);
    }
    focused_ = static_cast<Handle>(target);
    redraw();
    return true;
}

void LaneStrip::focusInEvent(QFocusEvent* event)
{
    if (event->reason() == Qt::TabFocusReason) {
        focused_ = Handle::full;
    }
    QCustomPlot::focusInEvent(event);
    redraw();
}

void LaneStrip::focusOutEvent(QFocusEvent* event)
{
    QCustomPlot::focusOutEvent(event);
    redraw();
}

bool LaneStrip::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const double d = xAxis->pixelToCoord(help->pos().x());
        QString tip = tr("%1: %2 dB").arg(theme::metres(std::max(d, 0.0)), theme::decibels(level_db(std::max(d, 0.0))));
        switch (handleAt(help->pos())) {
        case Handle::full: tip = tr("full level up to here: drag, or arrow keys"); break;
        case Handle::silent: tip = tr("silent from here on: drag, or arrow keys"); break;
        case Handle::ears: tip = tr("your ears: drag to hear another distance"); break;
        case Handle::none: break;
        }
        QToolTip::showText(help->globalPos(), tip, this);
        return true;
    }
    return QCustomPlot::event(event);
}

} // namespace stone
