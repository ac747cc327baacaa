// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/strata/strata_view.h"

#include "app/session/work_pool.h"
#include "app/theme/theme.h"
#include "takes/take_series.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QToolTip>
#include <QWheelEvent>
#include <QtConcurrent>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double shortest_s = 0.5; ///< that can be shown
/// What takes longer to read than a picture is read on another thread.
constexpr double long_s = 900.0;

} // namespace

StrataView::StrataView(Session& session, TakeDesk& desk, QWidget* parent)
    : QWidget(parent), session_(session), desk_(desk), read_(std::make_shared<const Read>())
{
    setObjectName("strata");
    setAccessibleName(tr("The take over its time"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    connect(&desk_, &TakeDesk::takeChanged, this, &StrataView::reload);
    connect(&desk_, &TakeDesk::playingChanged, this, &StrataView::redraw);
    connect(&desk_, &TakeDesk::findingsFound, this, &StrataView::redraw);
    connect(&desk_, &TakeDesk::cursorMoved, this, [this] {
        const double t_s = desk_.cursor_s();
        const double span_s = to_s_ - from_s_;
        if (t_s < from_s_ || t_s > to_s_) {
            show(t_s - span_s / 2.0, t_s + span_s / 2.0);
        }
        setAccessibleDescription(theme::clock(t_s));
        update();
    });
    connect(&reading_, &QFutureWatcherBase::finished, this, [this] {
        if (!*stopReading_) {
            take(reading_.result());
        }
    });
    reload();
}

StrataView::~StrataView()
{
    if (stopReading_) {
        *stopReading_ = true;
    }
    reading_.waitForFinished();
}

void StrataView::redraw()
{
    stale_ = true;
    update();
}

void StrataView::reload()
{
    if (stopReading_) {
        *stopReading_ = true;
    }
    stopReading_ = std::make_shared<std::atomic<bool>>(false);
    const auto read = [first = desk_.take(), other = desk_.other(), by = by_,
                       stop = stopReading_]() -> std::shared_ptr<const Read> {
        auto made = std::make_shared<Read>();
        const auto goOn = [stop] { return !*stop; };
        if (first) {
            made->first = TakeLayers(*first, by, goOn);
            made->costs = first->costs();
        }
        if (first && other) {
            made->other = TakeLayers(*other, by, goOn);
            made->otherCosts = other->costs();
            made->alignment = std::make_unique<const TakeAlignment>(*first, *other);
        }
        return made;
    };
    const double longest_s =
        std::max(desk_.take() ? desk_.take()->seconds() : 0.0, desk_.other() ? desk_.other()->seconds() : 0.0);
    if (longest_s < long_s) {
        take(read());
        return;
    }
    take(std::make_shared<const Read>());
    reading_.setFuture(QtConcurrent::run(&workPool(), read));
    redraw();
}

void StrataView::take(std::shared_ptr<const Read> read)
{
    read_ = std::move(read);
    strips_.clear();
    usual_ = usualStrips();
    band_ = otherBand_ = {};
    from_s_ = 0.0;
    to_s_ = std::max(data().seconds(), shortest_s);
    redraw();
}

void StrataView::layBy(TakeLayers::By by)
{
    by_ = by;
    hidden_.clear();
    chosen_.clear();
    reload();
}

void StrataView::hide(const std::string& key)
{
    hidden_.insert(key);
    redraw();
}

void StrataView::keepOnly(const std::string& key)
{
    hidden_.clear();
    for (const auto& layer : data().layers()) {
        if (layer.key != key) {
            hidden_.insert(layer.key);
        }
    }
    redraw();
}

void StrataView::showAll()
{
    hidden_.clear();
    redraw();
}

std::vector<std::pair<double, double>> StrataView::inFirst(std::vector<std::pair<double, double>> points) const
{
    for (auto& point : points) {
        point.first = read_->alignment ? read_->alignment->inFirst_s(point.first) : point.first;
    }
    return points;
}

QString StrataView::addStrip(const QString& what, const QString& emitter)
{
    if (!desk_.take()) {
        return tr("There is no take to draw it from.");
    }
    try {
        const TakeSeries series = seriesOf(*desk_.take(), what.toStdString(), emitter.toStdString());
        Strip strip{QString::fromStdString(series.name), QString::fromStdString(series.unit), series.points, {}, 0.0, false};
        if (desk_.other()) {
            try {
                strip.other = inFirst(seriesOf(*desk_.other(), what.toStdString(), emitter.toStdString()).points);
            } catch (const std::invalid_argument&) {
                // The other take has no such thing: there is nothing to draw of it.
            }
        }
        strips_.push_back(std::move(strip));
        redraw();
        return {};
    } catch (const std::invalid_argument& error) {
        return QString::fromStdString(error.what());
    }
}

void StrataView::clearStrips()
{
    strips_.clear();
    redraw();
}

double StrataView::xOf(double t_s) const
{
    return area().left() + (t_s - from_s_) / (to_s_ - from_s_) * area().width();
}

double StrataView::timeAt(double x) const
{
    return from_s_ + (x - area().left()) / area().width() * (to_s_ - from_s_);
}

void StrataView::show(double from_s, double to_s)
{
    const double whole_s = std::max(data().seconds(), shortest_s);
    const double span_s = std::clamp(to_s - from_s, shortest_s, whole_s);
    from_s_ = std::clamp(from_s, 0.0, whole_s - span_s);
    to_s_ = from_s_ + span_s;
    redraw();
}

void StrataView::zoom(double factor, double about_s)
{
    const double span_s = std::clamp((to_s_ - from_s_) / factor, shortest_s, std::max(data().seconds(), shortest_s));
    const double share = (about_s - from_s_) / (to_s_ - from_s_);
    show(about_s - share * span_s, about_s + (1.0 - share) * span_s);
}

void StrataView::resizeEvent(QResizeEvent*)
{
    stale_ = true;
}

const TakeLayers::Layer* StrataView::layerAt(const QPointF& at) const
{
    for (const auto& [band, layers] : {std::pair(&band_, &read_->first), std::pair(&otherBand_, &read_->other)}) {
        if (!band->area.contains(at)) {
            continue;
        }
        for (std::size_t i = 0; i < band->edges.size(); ++i) {
            const auto x = static_cast<std::size_t>(std::max(at.x() - band->area.left(), 0.0));
            if (x < band->edges[i].size() && band->area.bottom() - static_cast<double>(band->edges[i][x]) <= at.y()) {
                return &layers->layers()[band->which[i]];
            }
        }
    }
    return nullptr;
}

QString StrataView::describe(const QPointF& at) const
{
    double t_s = std::clamp(timeAt(at.x()), 0.0, data().seconds());
    if (at.y() < ruler_px) {
        for (const TakeFinding& finding : desk_.findings()) {
            constexpr double near_px = 5.0;
            if (std::abs(xOf(finding.t_s) - at.x()) < near_px) {
                return QString::fromStdString(finding.what);
            }
        }
    }
    if (const auto* layer = layerAt(at)) {
        if (otherBand_.area.contains(at) && read_->alignment) {
            t_s = std::max(read_->alignment->inSecond_s(t_s), 0.0);
        }
        const auto stretch = std::min(static_cast<std::size_t>(t_s / takeBin_s), layer->level_db.size() - 1);
        return tr("%1, %2: %3 dB")
            .arg(nameOf(*layer), theme::clock(t_s), theme::decibels(static_cast<double>(layer->level_db[stretch])));
    }
    return theme::clock(t_s);
}

bool StrataView::event(QEvent* event)
{
    if (event->type() == QEvent::ShortcutOverride) {
        // Elsewhere this deletes what is selected.
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
            event->accept();
            return true;
        }
    }
    if (event->type() == QEvent::ToolTip && desk_.take()) {
        const auto* help = static_cast<QHelpEvent*>(event);
        QToolTip::showText(help->globalPos(), describe(help->pos()), this);
        return true;
    }
    return QWidget::event(event);
}

void StrataView::mousePressEvent(QMouseEvent* event)
{
    if (event->button() == Qt::LeftButton && desk_.take()) {
        desk_.setCursor(timeAt(event->position().x()));
    }
}

void StrataView::mouseMoveEvent(QMouseEvent* event)
{
    if ((event->buttons() & Qt::LeftButton) != 0 && desk_.take()) {
        desk_.setCursor(timeAt(event->position().x()));
    }
}

void StrataView::mouseDoubleClickEvent(QMouseEvent* event)
{
    if (const auto* layer = layerAt(event->position()); layer != nullptr && by_ == TakeLayers::By::emitters) {
        emit emitterChosen({layer->key});
    }
}

void StrataView::wheelEvent(QWheelEvent* event)
{
    const double steps = event->angleDelta().y() / 120.0;
    if ((event->modifiers() & Qt::ShiftModifier) != 0) {
        const double by_s = -steps * (to_s_ - from_s_) / 10.0;
        show(from_s_ + by_s, to_s_ + by_s);
    } else {
        zoom(std::pow(1.25, steps), timeAt(event->position().x()));
    }
    event->accept();
}

void StrataView::keyPressEvent(QKeyEvent* event)
{
    const double by_s = (event->modifiers() & Qt::ShiftModifier) != 0 ? 1.0 : takeStep_s;
    switch (event->key()) {
    case Qt::Key_Left: desk_.setCursor(desk_.cursor_s() - by_s); return;
    case Qt::Key_Right: desk_.setCursor(desk_.cursor_s() + by_s); return;
    case Qt::Key_Home: desk_.setCursor(0.0); return;
    case Qt::Key_End: desk_.setCursor(data().seconds()); return;
    case Qt::Key_Plus: zoom(1.5, desk_.cursor_s()); return;
    case Qt::Key_Minus: zoom(1.0 / 1.5, desk_.cursor_s()); return;
    case Qt::Key_Up: choose(1); return;
    case Qt::Key_Down: choose(-1); return;
    case Qt::Key_Backspace: showAll(); return;
    case Qt::Key_Delete:
    case Qt::Key_Return:
    case Qt::Key_Enter: break;
    default: QWidget::keyPressEvent(event); return;
    }
    if (chosen_.empty()) {
        return;
    }
    if (event->key() == Qt::Key_Delete) {
        hide(chosen_);
        choose(1);
    } else if ((event->modifiers() & Qt::ShiftModifier) != 0) {
        keepOnly(chosen_);
    } else if (by_ == TakeLayers::By::emitters) {
        emit emitterChosen({chosen_});
    }
}

/// The next layer up or down, said to whoever cannot see it.
void StrataView::choose(int by)
{
    const std::vector<std::size_t> shown = shownOf(data());
    if (shown.empty()) {
        chosen_.clear();
        return;
    }
    const auto at =
        std::find_if(shown.begin(), shown.end(), [this](std::size_t i) { return data().layers()[i].key == chosen_; });
    const auto last = static_cast<std::ptrdiff_t>(shown.size()) - 1;
    const std::ptrdiff_t next = at != shown.end() ? std::clamp<std::ptrdiff_t>(at - shown.begin() + by, 0, last) : 0;
    const TakeLayers::Layer& layer = data().layers()[shown[static_cast<std::size_t>(next)]];
    chosen_ = layer.key;
    const auto stretch = static_cast<std::size_t>(std::max(desk_.cursor_s(), 0.0) / takeBin_s);
    setAccessibleDescription(
        tr("%1: %2 dB at %3")
            .arg(nameOf(layer),
                 theme::decibels(stretch < layer.level_db.size() ? static_cast<double>(layer.level_db[stretch]) : -200.0),
                 theme::clock(desk_.cursor_s())));
    redraw();
}

void StrataView::contextMenuEvent(QContextMenuEvent* event)
{
    QMenu menu;
    if (const auto* layer = layerAt(event->pos())) {
        const std::string key = layer->key;
        menu.addAction(tr("Take %1 out of view").arg(nameOf(*layer)), this, [this, key] { hide(key); });
        menu.addAction(tr("Keep only %1").arg(nameOf(*layer)), this, [this, key] { keepOnly(key); });
        if (by_ == TakeLayers::By::emitters) {
            const QString name = nameOf(*layer);
            QMenu* strips = menu.addMenu(tr("A strip of %1's").arg(name));
            for (const char* what : {"level", "distance-m", "copies", "gave-way", "Distance", "Walls", "Gaze", "Facing"}) {
                strips->addAction(tr(what), this, [this, what, name] { addStrip(what, name); });
            }
        }
    }
    if (!hidden_.empty()) {
        menu.addAction(tr("Show all layers"), this, &StrataView::showAll);
    }
    if (!strips_.empty()) {
        menu.addAction(tr("Take added strips away"), this, &StrataView::clearStrips);
    }
    menu.addAction(tr("Show all of the time"), this, [this] { show(0.0, data().seconds()); });
    menu.exec(event->globalPos());
}

} // namespace stone
