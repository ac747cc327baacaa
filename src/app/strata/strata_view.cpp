#include "app/strata/strata_view.h"

#include "app/theme/haloed.h"
#include "app/theme/theme.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double left_px = 72.0; ///< for what the strips are called
constexpr double right_px = 8.0;
constexpr double ruler_px = 20.0;
constexpr double strip_px = 27.0;
constexpr double gap_px = 3.0;
constexpr double shortest_s = 0.5; ///< that can be shown
/// More layers cannot be told apart: what is softer lies together on top.
constexpr std::size_t mostLayers = 40;
constexpr double mostSilent = -60.0;

/// A tint of a kind's colour, so that neighbours differ and what is written on it can be read.
QColor shadeOf(EmitterKind kind, std::size_t number)
{
    static constexpr double shares[] = {0.62, 0.42, 0.74, 0.52, 0.34};
    const double share = shares[number % 5];
    const QColor colour = theme::colourOf(kind);
    const auto mixed = [share](int of, int with) { return static_cast<int>(share * of + (1.0 - share) * with); };
    return {mixed(colour.red(), theme::field.red()), mixed(colour.green(), theme::field.green()),
            mixed(colour.blue(), theme::field.blue())};
}

/// Even steps of time that leave room for their names.
double tickOf(double span_s, double width_px)
{
    static constexpr double steps[] = {0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1'800, 3'600};
    for (const double step : steps) {
        if (step / span_s * width_px > 62.0) {
            return step;
        }
    }
    return 7'200.0;
}

} // namespace

StrataView::StrataView(Session& session, TakeDesk& desk, QWidget* parent) : QWidget(parent), session_(session), desk_(desk)
{
    setObjectName("strata");
    setAccessibleName(tr("The take over its time"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    connect(&desk_, &TakeDesk::takeChanged, this, &StrataView::reload);
    connect(&desk_, &TakeDesk::cursorMoved, this, [this] {
        const double t_s = desk_.cursor_s();
        const double span_s = to_s_ - from_s_;
        if (t_s < from_s_ || t_s > to_s_) {
            show(t_s - span_s / 2.0, t_s + span_s / 2.0);
        }
        setAccessibleDescription(theme::clock(t_s));
        update();
    });
    connect(&desk_, &TakeDesk::findingsFound, this, [this] {
        stale_ = true;
        update();
    });
    reload();
}

void StrataView::reload()
{
    strips_.clear();
    data_ = desk_.take() ? StrataData(*desk_.take(), by_) : StrataData();
    other_ = desk_.take() && desk_.other() ? StrataData(*desk_.other(), by_) : StrataData();
    alignment_ = desk_.take() && desk_.other() ? std::make_unique<TakeAlignment>(*desk_.take(), *desk_.other()) : nullptr;
    from_s_ = 0.0;
    to_s_ = std::max(data_.seconds(), shortest_s);
    stale_ = true;
    update();
}

void StrataView::layBy(StrataData::By by)
{
    by_ = by;
    hidden_.clear();
    reload();
}

void StrataView::hide(const std::string& key)
{
    hidden_.insert(key);
    stale_ = true;
    update();
}

void StrataView::keepOnly(const std::string& key)
{
    hidden_.clear();
    for (const auto& layer : data_.layers()) {
        if (layer.key != key) {
            hidden_.insert(layer.key);
        }
    }
    stale_ = true;
    update();
}

void StrataView::showAll()
{
    hidden_.clear();
    stale_ = true;
    update();
}

std::vector<std::pair<double, double>> StrataView::inFirst(std::vector<std::pair<double, double>> points) const
{
    for (auto& point : points) {
        point.first = alignment_ ? alignment_->inFirst_s(point.first) : point.first;
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
        stale_ = true;
        update();
        return {};
    } catch (const std::invalid_argument& error) {
        return QString::fromStdString(error.what());
    }
}

void StrataView::clearStrips()
{
    strips_.clear();
    stale_ = true;
    update();
}

std::vector<StrataView::Strip> StrataView::allStrips() const
{
    const auto evenly = [](const std::vector<float>& values) {
        std::vector<std::pair<double, double>> points;
        for (std::size_t i = 0; i < values.size(); ++i) {
            points.emplace_back((static_cast<double>(i) + 0.5) * takeBin_s, static_cast<double>(values[i]));
        }
        return points;
    };
    std::vector<Strip> all;
    all.push_back(
        {tr("Loudness"), tr("LUFS"), evenly(data_.loudness_lufs()), inFirst(evenly(other_.loudness_lufs())), 0.0, false});
    all.push_back({tr("Voices"),
                   {},
                   evenly(data_.voices()),
                   inFirst(evenly(other_.voices())),
                   static_cast<double>(session_.project().voices),
                   true});
    all.push_back({tr("Processor"), "%", data_.cpu_pct(), inFirst(other_.cpu_pct()), 0.0, true});
    all.push_back({tr("Memory"), tr("MB"), data_.memory_mb(), inFirst(other_.memory_mb()), 0.0, true});
    all.insert(all.end(), strips_.begin(), strips_.end());
    return all;
}

QRectF StrataView::area() const
{
    return QRectF(rect()).adjusted(left_px, ruler_px, -right_px, -4.0);
}

QRectF StrataView::layersArea() const
{
    QRectF all = area();
    const double strips = (4.0 + static_cast<double>(strips_.size())) * (strip_px + gap_px);
    all.setHeight(std::max(all.height() - strips, 48.0));
    return all;
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
    const double whole_s = std::max(data_.seconds(), shortest_s);
    const double span_s = std::clamp(to_s - from_s, shortest_s, whole_s);
    from_s_ = std::clamp(from_s, 0.0, whole_s - span_s);
    to_s_ = from_s_ + span_s;
    stale_ = true;
    update();
}

void StrataView::zoom(double factor, double about_s)
{
    const double span_s = std::clamp((to_s_ - from_s_) / factor, shortest_s, std::max(data_.seconds(), shortest_s));
    const double share = (about_s - from_s_) / (to_s_ - from_s_);
    show(about_s - share * span_s, about_s + (1.0 - share) * span_s);
}

std::vector<const StrataData::Layer*> StrataView::shownLayers() const
{
    std::vector<const StrataData::Layer*> shown;
    for (const auto& layer : data_.layers()) {
        if (!hidden_.contains(layer.key) && layer.loudness > 0.0 && shown.size() < mostLayers) {
            shown.push_back(&layer);
        }
    }
    return shown;
}

/// The thickest that all layers together are anywhere: the scale stays while one zooms.
double StrataView::thickest() const
{
    double most = 1e-6;
    const auto layers = shownLayers();
    for (std::size_t i = 0; i < data_.stretches(); ++i) {
        double sum = 0.0;
        for (const auto* layer : layers) {
            sum += static_cast<double>(StrataData::thickness(layer->level_db[i]));
        }
        most = std::max(most, sum);
    }
    return most;
}

/// The upper edge of each layer at each pixel, in pixels above the ground.
std::vector<std::vector<float>> StrataView::stacked(const QRectF& area) const
{
    const auto layers = shownLayers();
    const auto columns = static_cast<std::size_t>(std::max(area.width(), 1.0)) + 1;
    const double scale = (area.height() - 6.0) / thickest();
    std::vector<std::vector<float>> edges(layers.size(), std::vector<float>(columns, 0.0F));
    const auto stretches = static_cast<double>(data_.stretches());
    for (std::size_t x = 0; x < columns; ++x) {
        const double at = timeAt(area.left() + static_cast<double>(x)) / takeBin_s - 0.5;
        const auto before = static_cast<std::size_t>(std::clamp(std::floor(at), 0.0, std::max(stretches - 1.0, 0.0)));
        const std::size_t after = std::min(before + 1, data_.stretches() - 1);
        const auto share = static_cast<float>(std::clamp(at - static_cast<double>(before), 0.0, 1.0));
        // Where a pixel is many stretches, the loudest of them counts.
        const auto wide = static_cast<std::size_t>((to_s_ - from_s_) / area.width() / takeBin_s);
        float sum = 0.0F;
        for (std::size_t i = 0; i < layers.size(); ++i) {
            const auto& level = layers[i]->level_db;
            float thick = (1.0F - share) * StrataData::thickness(level[before]) + share * StrataData::thickness(level[after]);
            for (std::size_t k = 1; k < wide && before + k < level.size(); ++k) {
                thick = std::max(thick, StrataData::thickness(level[before + k]));
            }
            sum += thick;
            edges[i][x] = sum * static_cast<float>(scale);
        }
    }
    return edges;
}

void StrataView::paintLayers(QPainter& painter, const QRectF& area) const
{
    const auto layers = shownLayers();
    if (data_.stretches() == 0 || layers.empty()) {
        return;
    }
    const auto edges = stacked(area);
    painter.save();
    painter.setClipRect(area);
    for (std::size_t i = layers.size(); i-- > 0;) {
        QPolygonF outline;
        outline << QPointF(area.left(), area.bottom());
        for (std::size_t x = 0; x < edges[i].size(); ++x) {
            outline << QPointF(area.left() + static_cast<double>(x), area.bottom() - static_cast<double>(edges[i][x]));
        }
        outline << QPointF(area.right(), area.bottom());
        painter.setPen(QPen(theme::paper, 1.0));
        painter.setBrush(shadeOf(layers[i]->kind, i));
        painter.drawPolygon(outline);
    }
    // Each is called by its name where it is thickest, if there is room for it.
    painter.setFont(theme::text(8, QFont::Bold));
    const QFontMetricsF metrics(painter.font());
    std::vector<QRectF> taken;
    for (std::size_t i = 0; i < layers.size(); ++i) {
        std::size_t best = 0;
        float thick = 0.0F;
        for (std::size_t x = 0; x < edges[i].size(); ++x) {
            const float here = edges[i][x] - (i > 0 ? edges[i - 1][x] : 0.0F);
            if (here > thick) {
                thick = here;
                best = x;
            }
        }
        const QString name = metrics.elidedText(layers[i]->name, Qt::ElideMiddle, 150.0);
        const double width = metrics.horizontalAdvance(name);
        if (static_cast<double>(thick) < metrics.height() || width > area.width()) {
            continue;
        }
        const double middle = area.bottom() - static_cast<double>(edges[i][best] - thick / 2.0F);
        const double x =
            std::clamp(area.left() + static_cast<double>(best) - width / 2.0, area.left() + 2.0, area.right() - width - 2.0);
        const QRectF box(x - 2.0, middle - metrics.height() / 2.0, width + 4.0, metrics.height());
        if (std::none_of(taken.begin(), taken.end(), [&](const QRectF& other) { return other.intersects(box); })) {
            taken.push_back(box);
            theme::drawHaloed(painter, QPointF(x, middle + metrics.ascent() / 2.0 - 1.0), name, theme::ink);
        }
    }
    painter.restore();
}

void StrataView::paintStrip(QPainter& painter, const QRectF& area, const Strip& strip) const
{
    double least = strip.fromNothing ? 0.0 : 1e9;
    double most = strip.fromNothing ? std::max(strip.limit, 1e-6) : -1e9;
    for (const auto* points : {&strip.points, &strip.other}) {
        for (const auto& [t_s, value] : *points) {
            if (std::isfinite(value) && value > -199.0) {
                least = std::min(least, std::max(value, strip.fromNothing ? 0.0 : mostSilent));
                most = std::max(most, value);
            }
        }
    }
    if (most <= least) {
        most = least + 1.0;
    }
    const auto yOf = [&](double value) {
        return area.bottom() - 2.0 - (std::max(value, least) - least) / (most - least) * (area.height() - 8.0);
    };
    painter.setPen(QPen(theme::line, 1));
    painter.drawLine(area.bottomLeft(), area.bottomRight());
    painter.setFont(theme::text(8));
    painter.setPen(theme::soft);
    const QFontMetricsF names(painter.font());
    painter.drawText(QRectF(4, area.top(), left_px - 10, area.height()), Qt::AlignLeft | Qt::AlignVCenter,
                     names.elidedText(strip.name, Qt::ElideMiddle, left_px - 12));
    painter.save();
    painter.setClipRect(area);
    const auto draw = [&](const std::vector<std::pair<double, double>>& points, const QPen& pen) {
        QPolygonF line;
        double x = -1e9;
        for (const auto& [t_s, value] : points) {
            // One point a pixel is enough, but for what sticks out.
            if (t_s < from_s_ - 2.0 || t_s > to_s_ + 2.0) {
                continue;
            }
            const double here = xOf(t_s);
            const double y = yOf(std::isfinite(value) ? value : least);
            if (here - x >= 0.7 || line.isEmpty()) {
                line << QPointF(here, y);
                x = here;
            } else {
                line.back().setY(std::min(line.back().y(), y));
            }
        }
        painter.setPen(pen);
        painter.drawPolyline(line);
    };
    draw(strip.other, QPen(theme::soft, 1.0, Qt::DashLine));
    draw(strip.points, QPen(theme::verdigris, 1.5));
    if (strip.limit > 0.0) {
        painter.setPen(QPen(theme::ink, 1.0, Qt::DashDotLine));
        painter.drawLine(QPointF(area.left(), yOf(strip.limit)), QPointF(area.right(), yOf(strip.limit)));
    }
    painter.restore();
    const auto highest = [](const std::vector<std::pair<double, double>>& points) {
        double value = -1e9;
        for (const auto& point : points) {
            value = std::isfinite(point.second) ? std::max(value, point.second) : value;
        }
        return value;
    };
    if (!strip.points.empty()) {
        QString text = tr("at most %1").arg(theme::signedNumber(highest(strip.points), 1));
        text += strip.unit.isEmpty() ? QString() : ' ' + strip.unit;
        if (!strip.other.empty()) {
            text += tr(", was %1").arg(theme::signedNumber(highest(strip.other), 1));
        }
        text += strip.limit > 0.0 ? tr(" · limit %1").arg(strip.limit) : QString();
        painter.setFont(theme::number(7.5));
        theme::drawHaloed(painter,
                          QPointF(area.right() - QFontMetricsF(painter.font()).horizontalAdvance(text) - 2, area.top() + 9),
                          text, theme::soft);
    }
}

void StrataView::paintRuler(QPainter& painter) const
{
    const QRectF all = area();
    const double tick_s = tickOf(to_s_ - from_s_, all.width());
    painter.setFont(theme::number(7.5));
    for (double t_s = std::ceil(from_s_ / tick_s) * tick_s; t_s <= to_s_; t_s += tick_s) {
        const double x = xOf(t_s);
        painter.setPen(QPen(theme::line, 1));
        painter.drawLine(QPointF(x, ruler_px - 5), QPointF(x, ruler_px));
        painter.setPen(theme::soft);
        painter.drawText(QRectF(x - 40, 0, 80, ruler_px - 5), Qt::AlignCenter, theme::clock(t_s));
    }
}

/// What happened, where it did: a line down through everything, with its name at the top.
void StrataView::paintMarks(QPainter& painter) const
{
    const QRectF all = area();
    double free = all.left();
    painter.setFont(theme::text(7.5));
    const QFontMetricsF metrics(painter.font());
    for (const TakeEvent& event : desk_.take()->events()) {
        if (event.t_s < from_s_ || event.t_s > to_s_) {
            continue;
        }
        const double x = xOf(event.t_s);
        const bool edit = event.kind == TakeEvent::Kind::edit;
        painter.setPen(QPen(edit ? theme::cinnabar : theme::faint, 1, edit ? Qt::SolidLine : Qt::DotLine));
        painter.drawLine(QPointF(x, all.top()), QPointF(x, all.bottom()));
        QString name = QString::fromStdString(event.name);
        switch (event.kind) {
        case TakeEvent::Kind::value: name += ' ' + QString::number(event.number, 'g', 3); break;
        case TakeEvent::Kind::use: name = tr("use"); break;
        case TakeEvent::Kind::reset: name = tr("back to the start"); break;
        case TakeEvent::Kind::burst: name = tr("burst of %1").arg(event.number); break;
        case TakeEvent::Kind::bump: name = tr("bump"); break;
        case TakeEvent::Kind::fall: name = tr("fall"); break;
        case TakeEvent::Kind::signal:
        case TakeEvent::Kind::edit: break;
        }
        name = metrics.elidedText(name, Qt::ElideMiddle, 130.0);
        if (x >= free) {
            theme::drawHaloed(painter, QPointF(x + 3, all.top() + 9), name, edit ? theme::cinnabar : theme::soft);
            free = x + metrics.horizontalAdvance(name) + 10.0;
        }
    }
}

/// What to listen to: a triangle on the ruler, as findings have elsewhere.
void StrataView::paintFindings(QPainter& painter) const
{
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::sulphur);
    for (const TakeFinding& finding : desk_.findings()) {
        if (finding.t_s >= from_s_ && finding.t_s <= to_s_) {
            const QPointF at(xOf(finding.t_s), ruler_px - 1.0);
            painter.drawPolygon(QPolygonF({at + QPointF(-4, 0), at + QPointF(4, 0), at + QPointF(0, -7)}));
        }
    }
}

/// Everything but the line of the moment: made anew when something of it changes, not sixty times a second.
void StrataView::paintStill()
{
    const qreal ratio = devicePixelRatioF();
    still_ = QPixmap(size() * ratio);
    still_.setDevicePixelRatio(ratio);
    still_.fill(theme::panel);
    stale_ = false;
    QPainter painter(&still_);
    painter.setRenderHint(QPainter::Antialiasing);
    if (!desk_.take()) {
        painter.setPen(theme::soft);
        painter.setFont(theme::text(9));
        painter.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                         desk_.recording() ? tr("Recording. What is heard is drawn here when it ends.")
                         : !desk_.shelf().empty()
                             ? tr("Choose a take above, or record another.")
                             : tr("No take yet: press ● Record, walk, and press it again. It is kept beside the "
                                  "project."));
        return;
    }
    const QRectF layers = layersArea();
    painter.fillRect(layers, theme::field);
    paintLayers(painter, layers);
    painter.setPen(QPen(theme::ink, 1.2));
    painter.drawLine(layers.bottomLeft(), layers.bottomRight());
    painter.setFont(theme::text(8));
    painter.setPen(theme::soft);
    painter.drawText(QRectF(4, layers.top(), left_px - 10, 14), Qt::AlignLeft, tr("loud"));
    painter.drawText(QRectF(4, layers.bottom() - 14, left_px - 10, 14), Qt::AlignLeft, tr("quiet"));
    double top = layers.bottom() + gap_px;
    for (const Strip& strip : allStrips()) {
        paintStrip(painter, QRectF(layers.left(), top, layers.width(), strip_px), strip);
        top += strip_px + gap_px;
    }
    paintRuler(painter);
    paintMarks(painter);
    paintFindings(painter);
}

void StrataView::paintEvent(QPaintEvent*)
{
    if (stale_ || still_.size() != size() * devicePixelRatioF()) {
        paintStill();
    }
    QPainter painter(this);
    painter.drawPixmap(0, 0, still_);
    if (!desk_.take()) {
        return;
    }
    painter.setRenderHint(QPainter::Antialiasing);
    const double x = xOf(desk_.cursor_s());
    const QRectF all = area();
    if (x >= all.left() - 1 && x <= all.right() + 1) {
        painter.setPen(QPen(theme::ink, hasFocus() ? 2.0 : 1.4));
        painter.drawLine(QPointF(x, all.top() - 4), QPointF(x, all.bottom()));
        painter.setBrush(theme::ink);
        painter.drawPolygon(QPolygonF({QPointF(x - 5, all.top() - 6), QPointF(x + 5, all.top() - 6), QPointF(x, all.top())}));
    }
}

void StrataView::resizeEvent(QResizeEvent*)
{
    stale_ = true;
}

const StrataData::Layer* StrataView::layerAt(const QPointF& at) const
{
    const QRectF layers = layersArea();
    if (!desk_.take() || !layers.contains(at) || data_.stretches() == 0) {
        return nullptr;
    }
    const auto shown = shownLayers();
    const auto edges = stacked(layers);
    const auto x = static_cast<std::size_t>(std::clamp(at.x() - layers.left(), 0.0, layers.width()));
    for (std::size_t i = 0; i < shown.size(); ++i) {
        if (layers.bottom() - static_cast<double>(edges[i][x]) <= at.y()) {
            return shown[i];
        }
    }
    return nullptr;
}

QString StrataView::describe(const QPointF& at) const
{
    const double t_s = std::clamp(timeAt(at.x()), 0.0, data_.seconds());
    if (at.y() < ruler_px) {
        for (const TakeFinding& finding : desk_.findings()) {
            constexpr double near_px = 5.0;
            if (std::abs(xOf(finding.t_s) - at.x()) < near_px) {
                return QString::fromStdString(finding.what);
            }
        }
    }
    if (const auto* layer = layerAt(at)) {
        const auto stretch = std::min(static_cast<std::size_t>(t_s / takeBin_s), layer->level_db.size() - 1);
        return tr("%1, %2: %3 dB")
            .arg(layer->name, theme::clock(t_s), theme::decibels(static_cast<double>(layer->level_db[stretch])));
    }
    return theme::clock(t_s);
}

bool StrataView::event(QEvent* event)
{
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
    if (const auto* layer = layerAt(event->position()); layer != nullptr && by_ == StrataData::By::sounds) {
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
    case Qt::Key_End: desk_.setCursor(data_.seconds()); return;
    case Qt::Key_Plus: zoom(1.5, desk_.cursor_s()); return;
    case Qt::Key_Minus: zoom(1.0 / 1.5, desk_.cursor_s()); return;
    default: QWidget::keyPressEvent(event);
    }
}

void StrataView::contextMenuEvent(QContextMenuEvent* event)
{
    QMenu menu;
    if (const auto* layer = layerAt(event->pos())) {
        const std::string key = layer->key;
        menu.addAction(tr("Take %1 out of view").arg(layer->name), this, [this, key] { hide(key); });
        menu.addAction(tr("Keep only %1").arg(layer->name), this, [this, key] { keepOnly(key); });
        if (by_ == StrataData::By::sounds) {
            const QString name = layer->name;
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
    menu.addAction(tr("Show all of the time"), this, [this] { show(0.0, data_.seconds()); });
    menu.exec(event->globalPos());
}

} // namespace stone
