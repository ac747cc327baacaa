// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/strata/strata_view.h"

#include "app/theme/haloed.h"
#include "app/theme/theme.h"

#include <QImage>
#include <QPainter>

#include <algorithm>
#include <cmath>

/// How a take over its time is drawn.
namespace stone
{

namespace
{

constexpr double left_px = 72.0; ///< for what the strips are called
constexpr double right_px = 8.0;
constexpr double strip_px = 27.0;
constexpr double gap_px = 3.0;
/// More layers cannot be told apart: the softest are left out.
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

/// What tells a kind from others where colours do not: whether a pixel lies on its hatching.
bool onHatch(EmitterKind kind, int x, int y)
{
    switch (kind) {
    case EmitterKind::point: return false;
    case EmitterKind::bed: return y % 5 == 0;
    case EmitterKind::area: return (x + y) % 6 == 0;
    case EmitterKind::sprinkle: return x % 4 == 0 && y % 4 == x / 4 % 2 * 2;
    case EmitterKind::roamer: return (x - y + 6'000) % 6 == 0;
    case EmitterKind::steps: return x % 5 == 0;
    case EmitterKind::pulse: return x % 8 == 0 || x % 8 == 2;
    }
    return false;
}

QRgb mixed(QRgb under, QRgb over, double share)
{
    const auto part = [share](int a, int b) { return static_cast<int>(std::lround(a + (b - a) * share)); };
    return qRgb(part(qRed(under), qRed(over)), part(qGreen(under), qGreen(over)), part(qBlue(under), qBlue(over)));
}

/// How one layer is painted.
struct Coat {
    EmitterKind kind;
    QRgb plain;
    QRgb hatched;
    bool chosen;
};

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

QString takeName(const std::shared_ptr<const Take>& take)
{
    return take ? QString::fromStdString(take->path().stem().string()) : QString();
}

} // namespace

QString StrataView::nameOf(const TakeLayers::Layer& layer)
{
    return layer.name.empty() ? tr("no family") : QString::fromStdString(layer.name);
}

/// Those that every take has.
std::vector<StrataView::Strip> StrataView::usualStrips() const
{
    const auto evenly = [](const std::vector<float>& values) {
        std::vector<std::pair<double, double>> points;
        for (std::size_t i = 0; i < values.size(); ++i) {
            points.emplace_back((static_cast<double>(i) + 0.5) * takeBin_s, static_cast<double>(values[i]));
        }
        return points;
    };
    const auto share = [](const std::vector<TakenCost>& costs) {
        std::vector<std::pair<double, double>> points;
        for (const TakenCost& cost : costs) {
            points.emplace_back(cost.t_s, cost.costs.span_s > 0.0 ? 100.0 * cost.costs.total_s() / cost.costs.span_s : 0.0);
        }
        return points;
    };
    const auto memory = [](const std::vector<TakenCost>& costs) {
        std::vector<std::pair<double, double>> points;
        for (const TakenCost& cost : costs) {
            points.emplace_back(cost.t_s, cost.memory_bytes / 1e6);
        }
        return points;
    };
    std::vector<Strip> all;
    all.push_back({tr("Loudness"), tr("LUFS"), evenly(data().loudness_lufs()), inFirst(evenly(read_->other.loudness_lufs())),
                   0.0, false});
    all.push_back({tr("Voices"), {}, evenly(data().voices()), inFirst(evenly(read_->other.voices())), 0.0, true});
    all.push_back({tr("Processor"), "%", share(read_->costs), inFirst(share(read_->otherCosts)), 0.0, true});
    all.push_back({tr("Memory"), tr("MB"), memory(read_->costs), inFirst(memory(read_->otherCosts)), 0.0, true});
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

std::vector<std::size_t> StrataView::shownOf(const TakeLayers& layers) const
{
    std::vector<std::size_t> shown;
    for (std::size_t i = 0; i < layers.layers().size() && shown.size() < mostLayers; ++i) {
        const auto& layer = layers.layers()[i];
        if (!hidden_.contains(layer.key) && layer.loudness > 0.0) {
            shown.push_back(i);
        }
    }
    return shown;
}

/// The scale stays while one zooms: all of both takes has room in it.
StrataView::Band StrataView::bandOf(const TakeLayers& layers, const QRectF& area, double thickest, bool other) const
{
    Band band{area, shownOf(layers), {}};
    const auto columns = static_cast<std::size_t>(std::max(area.width(), 1.0)) + 1;
    std::vector<double> times_s(columns + 1);
    for (std::size_t x = 0; x <= columns; ++x) {
        const double t_s = timeAt(area.left() + static_cast<double>(x) - 0.5);
        times_s[x] = other ? read_->alignment->inSecond_s(t_s) : t_s;
    }
    band.edges = layers.stacked(band.which, times_s);
    const auto scale = static_cast<float>((area.height() - 6.0) / thickest);
    for (auto& edge : band.edges) {
        for (float& height : edge) {
            height *= scale;
        }
    }
    return band;
}

/// Layers lie on each other column by column, and are painted so: as polygons of a corner for each column the picture took ten
/// times as long.
QImage StrataView::imageOf(const Band& band, const TakeLayers& layers) const
{
    const double ratio = devicePixelRatioF();
    QImage image((band.area.size() * ratio).toSize().expandedTo({1, 1}), QImage::Format_RGB32);
    image.setDevicePixelRatio(ratio);
    image.fill(theme::field);
    std::vector<Coat> coats;
    for (std::size_t i = 0; i < band.which.size(); ++i) {
        const TakeLayers::Layer& layer = layers.layers()[band.which[i]];
        const QRgb plain = shadeOf(layer.kind, i).rgb();
        const bool chosen = layer.key == chosen_;
        coats.push_back({layer.kind, plain, mixed(plain, theme::ink.rgb(), 0.22), chosen});
    }
    const double height = image.height();
    for (int x = 0; x < image.width(); ++x) {
        const double column = x / ratio;
        const auto before = static_cast<std::size_t>(column);
        const double share = column - std::floor(column);
        double lower = 0.0;
        for (std::size_t i = 0; i < coats.size(); ++i) {
            const std::vector<float>& edge = band.edges[i];
            const std::size_t last = edge.size() - 1;
            const double upper = ratio * ((1.0 - share) * static_cast<double>(edge[std::min(before, last)]) +
                                          share * static_cast<double>(edge[std::min(before + 1, last)]));
            const Coat& coat = coats[i];
            const int from = static_cast<int>(lower);
            const int to = std::min(static_cast<int>(std::ceil(upper)), image.height());
            for (int up = from; up < to; ++up) {
                const int y = static_cast<int>(height) - 1 - up;
                auto* pixel = reinterpret_cast<QRgb*>(image.scanLine(y)) + x;
                const double covered = std::min(upper, up + 1.0) - std::max(lower, static_cast<double>(up));
                const int hatchX = static_cast<int>(column);
                const int hatchY = static_cast<int>(y / ratio);
                QRgb colour = onHatch(coat.kind, hatchX, hatchY) ? coat.hatched : coat.plain;
                // A thin light line along each upper edge, a strong dark one along the chosen layer's.
                if (coat.chosen ? up + 2 > upper || up < lower + 1.5 : up + 1 > upper && upper - lower > 2.0) {
                    colour = coat.chosen ? theme::ink.rgb() : mixed(colour, theme::paper.rgb(), 0.75);
                }
                *pixel = mixed(*pixel, colour, std::clamp(covered, 0.0, 1.0));
            }
            lower = upper;
        }
    }
    return image;
}

void StrataView::paintBand(QPainter& painter, const Band& band, const TakeLayers& layers) const
{
    const QRectF& area = band.area;
    painter.drawImage(area.topLeft(), imageOf(band, layers));
    painter.save();
    painter.setClipRect(area);
    paintNames(painter, band, layers);
    painter.restore();
    painter.setPen(QPen(theme::ink, 1.2));
    painter.drawLine(area.bottomLeft(), area.bottomRight());
    painter.setFont(theme::text(8));
    painter.setPen(theme::soft);
    painter.drawText(QRectF(4, area.bottom() - 14, left_px - 10, 14), Qt::AlignLeft, tr("quiet"));
    if (!desk_.other()) {
        painter.drawText(QRectF(4, area.top(), left_px - 10, 14), Qt::AlignLeft, tr("loud"));
        return;
    }
    // Whose layers these are, and which of the two is heard.
    const bool other = &band == &otherBand_;
    const bool heard = desk_.hearsOther() == other;
    painter.setFont(theme::text(8, heard ? QFont::Bold : QFont::Normal));
    painter.setPen(heard ? theme::ink : theme::soft);
    const QString name = painter.fontMetrics().elidedText(takeName(other ? desk_.other() : desk_.take()), Qt::ElideMiddle,
                                                          static_cast<int>(left_px) - 10);
    painter.drawText(QRectF(4, area.top(), left_px - 8, 14), Qt::AlignLeft, name);
}

/// Each is called by its name where it is thickest, if there is room for it.
void StrataView::paintNames(QPainter& painter, const Band& band, const TakeLayers& layers) const
{
    const QRectF& area = band.area;
    const auto& edges = band.edges;
    painter.setFont(theme::text(8, QFont::Bold));
    const QFontMetricsF metrics(painter.font());
    std::vector<QRectF> taken;
    for (std::size_t i = 0; i < edges.size(); ++i) {
        const auto [best, thick] = TakeLayers::thickestOf(edges, i);
        const QString name = metrics.elidedText(nameOf(layers.layers()[band.which[i]]), Qt::ElideMiddle, 150.0);
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
        constexpr double beyond_s = 2.0; // so that the line goes on to the border
        const auto from = std::lower_bound(points.begin(), points.end(), std::pair(from_s_ - beyond_s, -1e9));
        for (auto point = from; point != points.end() && point->first <= to_s_ + beyond_s; ++point) {
            // One point a pixel is enough, but for what sticks out.
            const double here = xOf(point->first);
            const double y = yOf(std::isfinite(point->second) ? point->second : least);
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
    band_ = otherBand_ = {};
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
    if (reading()) {
        painter.setPen(theme::soft);
        painter.setFont(theme::text(9));
        painter.drawText(rect(), Qt::AlignCenter, tr("Reading the take…"));
        return;
    }
    const QRectF layers = layersArea();
    const bool two = read_->alignment != nullptr;
    QRectF above = layers;
    QRectF below;
    if (two) {
        above.setHeight((layers.height() - gap_px) / 2.0);
        below = above.translated(0.0, above.height() + gap_px);
    }
    const auto which = shownOf(data());
    const auto others = shownOf(read_->other);
    const double thickest = std::max(data().thickest(which), read_->other.thickest(others));
    band_ = bandOf(data(), above, thickest, false);
    otherBand_ = two ? bandOf(read_->other, below, thickest, true) : Band();
    paintBand(painter, band_, data());
    if (two) {
        paintBand(painter, otherBand_, read_->other);
    }
    double top = layers.bottom() + gap_px;
    constexpr std::size_t voices = 1;
    if (usual_.size() > voices) {
        usual_[voices].limit = session_.project().voices;
    }
    for (const auto* strips : {&usual_, &strips_}) {
        for (const Strip& strip : *strips) {
            paintStrip(painter, QRectF(layers.left(), top, layers.width(), strip_px), strip);
            top += strip_px + gap_px;
        }
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

} // namespace stone
