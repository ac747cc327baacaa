// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes/lane_strip.h"

#include "app/theme/theme.h"

#include <QHelpEvent>
#include <QToolTip>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{
constexpr double pointGrab_px = 11.0;
constexpr int samples = 260;
const QString earsLayer = QStringLiteral("ears");
} // namespace

LaneStrip::LaneStrip(QWidget* parent) : QCustomPlot(parent)
{
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(136);
    setBackground(QBrush(theme::panel));
    axisRect()->setBackground(QBrush(theme::field));
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
    yAxis->setSubTicks(false);
    over_ = addGraph();
    ghost_ = addGraph();
    ghost_->setPen(QPen(theme::faint, 1.6, Qt::DashLine));
    ground_ = addGraph();
    ground_->setPen(Qt::NoPen);
    curve_ = addGraph();
    curve_->setChannelFillGraph(ground_);
    focus_ = addGraph();
    focus_->setLineStyle(QCPGraph::lsNone);
    focus_->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(theme::verdigris, 2), Qt::NoBrush, 17));
    handles_ = addGraph();
    handles_->setLineStyle(QCPGraph::lsNone);

    // What moves while somebody walks has a picture of its own over the rest.
    addLayer(earsLayer, layer("main"), QCustomPlot::limAbove);
    layer(earsLayer)->setMode(QCPLayer::lmBuffered);
    earsLine_ = new QCPItemStraightLine(this);
    earsLine_->setLayer(earsLayer);
    earsLine_->setPen(QPen(theme::ink, 1, Qt::DotLine));
    earsDot_ = new QCPItemTracer(this);
    earsDot_->setLayer(earsLayer);
    earsDot_->setStyle(QCPItemTracer::tsCircle);
    earsDot_->setSize(9);
    earsDot_->setPen(QPen(theme::ink, 1.5));
    earsDot_->setBrush(theme::ink);
}

void LaneStrip::layOutAxes()
{
    const Lane& lane = shown_.lane;
    xAxis->setRange(ruler_.from, ruler_.to);
    QSharedPointer<QCPAxisTicker> xTicker(new QCPAxisTicker);
    if (lane.over == LaneInput::offFront || lane.over == LaneInput::direction) {
        QSharedPointer<QCPAxisTickerFixed> fixed(new QCPAxisTickerFixed);
        fixed->setTickStep(lane.over == LaneInput::offFront ? 30.0 : 60.0);
        xTicker = fixed;
    }
    xAxis->setTicker(xTicker);
    const lanes::Stretch values = lanes::valuesOf(lane);
    if (lanes::isLogarithmic(lane.property)) {
        QSharedPointer<QCPAxisTickerText> octaves(new QCPAxisTickerText);
        for (const auto& [hz, label] :
             {std::pair(20.0, "20"), {100.0, "100"}, {300.0, "300"}, {1000.0, "1k"}, {3000.0, "3k"}, {10'000.0, "10k"}}) {
            octaves->addTick(hz, label);
        }
        yAxis->setScaleType(QCPAxis::stLogarithmic);
        yAxis->setTicker(octaves);
    } else {
        QSharedPointer<QCPAxisTickerFixed> fixed(new QCPAxisTickerFixed);
        fixed->setTickStep(lane.property == LaneProperty::spread      ? 90.0
                           : lane.property == LaneProperty::placement ? 0.25
                                                                      : 20.0);
        yAxis->setScaleType(QCPAxis::stLinear);
        yAxis->setTicker(fixed);
    }
    yAxis->setRange(values.from, values.to);
}

void LaneStrip::plot(QCPGraph* graph, const Lane& lane, bool ownMeasure) const
{
    QVector<double> x;
    QVector<double> y;
    const lanes::Stretch mine = lanes::valuesOf(lane);
    const lanes::Stretch shown = lanes::valuesOf(shown_.lane);
    const auto share = [](const Lane& of, const lanes::Stretch& values, double value) {
        return lanes::isLogarithmic(of.property) ? std::log(value / values.from) / std::log(values.to / values.from)
                                                 : (value - values.from) / (values.to - values.from);
    };
    for (int i = 0; i <= samples; ++i) {
        const double at = ruler_.from + (ruler_.to - ruler_.from) * i / samples;
        double value = lanes::onStrip(lane, laneAt(lane, at));
        if (ownMeasure) {
            // Another property: as high on this strip as on its own.
            const double t = share(lane, mine, value);
            value = lanes::isLogarithmic(shown_.lane.property) ? shown.from * std::pow(shown.to / shown.from, t)
                                                               : shown.from + (shown.to - shown.from) * t;
        }
        x << at;
        y << value;
    }
    graph->setData(x, y, true);
}

void LaneStrip::showLane(const Shown& shown)
{
    Shown before = shown_;
    before.place = shown.place;
    if (drawn_ && dragged_ == nothing && !hasFocus() && before == shown) {
        if (shown.place != shown_.place) {
            shown_.place = shown.place;
            placeEars();
            layer(earsLayer)->replot();
        }
        return;
    }
    const bool otherLane = shown.lane.property != shown_.lane.property || shown.lane.over != shown_.lane.over ||
                           shown.lane.shape != shown_.lane.shape;
    shown_ = shown;
    if (dragged_ == nothing) {
        ruler_ = lanes::inputOf(shown.lane);
        const bool grows = shown.lane.over == LaneInput::distance || shown.lane.over == LaneInput::speed;
        if (grows && shown.ruler > 0.0) {
            ruler_.to = shown.ruler;
        }
    }
    if (otherLane) {
        chosen_ = 0;
    }
    chosen_ = std::min(chosen_, handleCount() - 1);
    redraw();
}

void LaneStrip::choose(int handle)
{
    chosen_ = std::clamp(handle, static_cast<int>(ears), handleCount() - 1);
    redraw();
    emit chosenChanged();
}

void LaneStrip::redraw()
{
    layOutAxes();
    drawn_ = isVisible();
    if (!drawn_) {
        return; // until it is seen
    }
    const Lane& lane = shown_.lane;
    const QColor colour = lane.on ? lanes::colourOf(lane.property) : theme::faint;
    QColor fill = colour;
    fill.setAlpha(34);
    curve_->setPen(QPen(colour, 2, lane.on ? Qt::SolidLine : Qt::DashLine));
    curve_->setBrush(fill);
    handles_->setScatterStyle(
        QCPScatterStyle(lane.shape == LaneShape::formula ? QCPScatterStyle::ssTriangle : QCPScatterStyle::ssSquare,
                        QPen(colour, 1.8), QBrush(theme::field), lane.shape == LaneShape::formula ? 11 : 8));
    // A lane that is switched off shows what it would do.
    Lane drawn = lane;
    drawn.on = true;
    plot(curve_, drawn, false);
    const double bottom = lanes::valuesOf(lane).from;
    ground_->setData({ruler_.from, ruler_.to}, {bottom, bottom}, true);
    ghost_->setVisible(shown_.ghost.has_value());
    if (shown_.ghost) {
        plot(ghost_, *shown_.ghost, false);
    }
    over_->setVisible(shown_.over.has_value());
    if (shown_.over) {
        over_->setPen(QPen(lanes::colourOf(shown_.over->property), 1.4, Qt::DotLine));
        plot(over_, *shown_.over, true);
    }
    QVector<double> x;
    QVector<double> y;
    for (const LaneHandle& handle : handlesOf(lane)) {
        x << std::min(handle.x, ruler_.to);
        y << lanes::onStrip(lane, handle.y);
    }
    handles_->setData(x, y, false);
    focus_->data()->clear();
    if (hasFocus() || lane.shape == LaneShape::curve) {
        if (chosen_ >= 0 && chosen_ < x.size()) {
            focus_->addData(x[chosen_], y[chosen_]);
        } else if (hasFocus() && shown_.place) {
            focus_->addData(std::min(*shown_.place, ruler_.to), lanes::onStrip(lane, laneAt(drawn, *shown_.place)));
        }
    }
    placeEars();
    replot(QCustomPlot::rpQueuedReplot);
}

void LaneStrip::placeEars()
{
    earsLine_->setVisible(shown_.place.has_value());
    earsDot_->setVisible(shown_.place.has_value());
    if (shown_.place) {
        // A lane that is switched off shows what it would do.
        Lane lane = shown_.lane;
        lane.on = true;
        const lanes::Stretch values = lanes::valuesOf(shown_.lane);
        const double at = std::min(*shown_.place, ruler_.to);
        earsLine_->point1->setCoords(at, values.from);
        earsLine_->point2->setCoords(at, values.to);
        earsDot_->position->setCoords(at, lanes::onStrip(shown_.lane, laneAt(lane, *shown_.place)));
    }
}

void LaneStrip::showEvent(QShowEvent* event)
{
    QCustomPlot::showEvent(event);
    if (!drawn_) {
        redraw();
    }
}

QPointF LaneStrip::handlePlace(int handle) const
{
    const LaneHandle h = handlesOf(shown_.lane)[static_cast<std::size_t>(handle)];
    return {xAxis->coordToPixel(std::min(h.x, ruler_.to)), yAxis->coordToPixel(lanes::onStrip(shown_.lane, h.y))};
}

QPointF LaneStrip::earsPlace() const
{
    const double at = std::min(shown_.place.value_or(0.0), ruler_.to);
    return {xAxis->coordToPixel(at), yAxis->coordToPixel(lanes::onStrip(shown_.lane, laneAt(shown_.lane, at)))};
}

int LaneStrip::handleAt(const QPointF& at) const
{
    int best = nothing;
    double nearest = pointGrab_px;
    for (int handle = 0; handle < handleCount(); ++handle) {
        const QPointF offset = handlePlace(handle) - at;
        const double distance = std::hypot(offset.x(), offset.y());
        // Of two in one place the later: it is the one that can be drawn away.
        if (distance <= nearest) {
            nearest = distance;
            best = handle;
        }
    }
    if (best == nothing && shown_.place && std::abs(earsPlace().x() - at.x()) < pointGrab_px) {
        best = ears;
    }
    return best;
}

void LaneStrip::move(int handle, double x, double y, const QString& gesture)
{
    if (handle == ears) {
        emit placeDragged(std::clamp(x, ruler_.from, 1e5));
        return;
    }
    const Lane moved = withHandleAt(shown_.lane, static_cast<std::size_t>(handle), x, y);
    emit laneEdited(moved, handleText(moved, static_cast<std::size_t>(handle)), gesture);
}

void LaneStrip::addPoint(double x)
{
    Lane lane = shown_.lane;
    const double value = laneAt(lane, x);
    const CurvePoint point{std::round(x * 100.0) / 100.0, std::isfinite(value) ? value : laneSilent_db,
                           lane.curve.empty() ? Segment::straight : lane.curve.back().segment};
    chosen_ = static_cast<int>(insertPoint(lane.curve, point));
    emit laneEdited(lane, tr("a point at %1").arg(lanes::inputText(lane.over, x)), {});
    emit chosenChanged();
}

void LaneStrip::removePoint()
{
    Lane lane = shown_.lane;
    if (lane.shape == LaneShape::curve && lane.curve.size() > 1 && chosen_ >= 0) {
        lane.curve.erase(lane.curve.begin() + chosen_);
        emit laneEdited(lane, tr("a point less"), {});
        emit chosenChanged();
    }
}

void LaneStrip::mousePressEvent(QMouseEvent* event)
{
    dragged_ = handleAt(event->position());
    if (dragged_ != nothing) {
        ++drags_;
        choose(dragged_);
    }
}

void LaneStrip::mouseMoveEvent(QMouseEvent* event)
{
    if (dragged_ == nothing) {
        const int under = handleAt(event->position());
        setCursor(under == nothing ? Qt::ArrowCursor : under == ears ? Qt::SizeHorCursor : Qt::SizeAllCursor);
        return;
    }
    move(dragged_, xAxis->pixelToCoord(event->position().x()), yAxis->pixelToCoord(event->position().y()),
         "lane drag " + QString::number(drags_));
}

void LaneStrip::mouseReleaseEvent(QMouseEvent*)
{
    const int was = std::exchange(dragged_, nothing);
    if (was == ears) {
        emit placeReleased();
    } else if (was != nothing) {
        emit gestureEnded();
        showLane(Shown(shown_)); // the ruler may fit itself again
    }
}

void LaneStrip::mouseDoubleClickEvent(QMouseEvent* event)
{
    const double x = xAxis->pixelToCoord(event->position().x());
    if (shown_.lane.shape == LaneShape::curve && handleAt(event->position()) < 0 && x >= ruler_.from && x <= ruler_.to) {
        addPoint(x);
    }
}

void LaneStrip::keyPressEvent(QKeyEvent* event)
{
    if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) {
        removePoint();
        return;
    }
    if (event->key() == Qt::Key_Insert && shown_.lane.shape == LaneShape::curve) {
        // What is everywhere has no place on the ruler.
        const double middle = (ruler_.from + ruler_.to) / 2.0;
        const double place = shown_.place.value_or(middle);
        addPoint(std::isfinite(place) ? place : middle);
        return;
    }
    const int across = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
    const int up = event->key() == Qt::Key_Up ? 1 : event->key() == Qt::Key_Down ? -1 : 0;
    if (across == 0 && up == 0) {
        QCustomPlot::keyPressEvent(event);
        return;
    }
    const bool far = event->modifiers() & Qt::ShiftModifier;
    const bool metres = shown_.lane.over == LaneInput::distance || shown_.lane.over == LaneInput::speed;
    const double stepX = (metres ? 0.1 : 1.0) * (far ? 10.0 : 1.0);
    if (chosen_ == ears) {
        emit placeDragged(shown_.place.value_or(0.0) + across * stepX);
        return;
    }
    const LaneHandle handle = handlesOf(shown_.lane)[static_cast<std::size_t>(chosen_)];
    double y = handle.y;
    if (up != 0 && lanes::isLogarithmic(shown_.lane.property)) {
        y *= std::exp2(up * (far ? 1.0 : 1.0 / 12.0));
    } else if (up != 0) {
        y += up *
             (shown_.lane.property == LaneProperty::spread      ? 5.0
              : shown_.lane.property == LaneProperty::placement ? 0.05
                                                                : 0.5) *
             (far ? 6.0 : 1.0);
    }
    const bool decibels = shown_.lane.property == LaneProperty::level || shown_.lane.property == LaneProperty::send;
    if (up > 0 && decibels) {
        y = std::max(y, lanes::bottom_db + 1.0); // out of silence in one step
    }
    move(chosen_, handle.x + across * stepX, y, {});
}

bool LaneStrip::focusNextPrevChild(bool next)
{
    // Tab goes through the handles, and the ears' place after the last, before it leaves the strip.
    const int count = handleCount();
    const int now = chosen_ == ears ? count : chosen_;
    const int target = now + (next ? 1 : -1);
    if (target < 0 || target > count || (target == count && !shown_.place)) {
        return QCustomPlot::focusNextPrevChild(next);
    }
    choose(target == count ? static_cast<int>(ears) : target);
    return true;
}

void LaneStrip::focusInEvent(QFocusEvent* event)
{
    if (event->reason() == Qt::TabFocusReason) {
        choose(0);
    }
    QCustomPlot::focusInEvent(event);
    redraw();
}

void LaneStrip::focusOutEvent(QFocusEvent* event)
{
    QCustomPlot::focusOutEvent(event);
    emit placeReleased();
    redraw();
}

bool LaneStrip::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const double x = std::clamp(xAxis->pixelToCoord(help->pos().x()), ruler_.from, ruler_.to);
        const int under = handleAt(help->pos());
        QString tip = tr("%1: %2").arg(lanes::inputText(shown_.lane.over, x),
                                       lanes::valueText(shown_.lane.property, laneAt(shown_.lane, x)));
        if (under == ears) {
            tip = tr("your ears: drag to listen from elsewhere until you let go");
        } else if (under != nothing) {
            tip = handlesOf(shown_.lane)[static_cast<std::size_t>(under)].help;
        } else if (shown_.lane.shape == LaneShape::curve) {
            tip += tr("\ndouble click adds a point");
        }
        QToolTip::showText(help->globalPos(), tip, this);
        return true;
    }
    return QCustomPlot::event(event);
}

} // namespace stone
