// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/contours/contour_layer.h"

#include "app/theme/haloed.h"
#include "app/theme/theme.h"

#include <QFontMetricsF>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// How much of the ground the strongest tint covers.
constexpr double strongest = 0.34;
/// Lines that are shorter than this have no figure.
constexpr double leastForFigure_px = 90.0;
/// From one figure of a line to the next.
constexpr double figureEvery_px = 420.0;

QString figureOf(MapShows shows, double level)
{
    if (shows == MapShows::voices) {
        return QString::number(std::lround(level));
    }
    const bool signedOne = shows == MapShows::difference || shows == MapShows::reverb;
    return (signedOne && level > 0.0 ? QStringLiteral("+") : QString()) + theme::signedNumber(level, 0);
}

QPainterPath pathOf(const Contour& contour)
{
    QPainterPath path;
    for (std::size_t i = 0; i < contour.line.size(); ++i) {
        const QPointF p(contour.line[i].x, contour.line[i].y);
        i == 0 ? path.moveTo(p) : path.lineTo(p);
    }
    if (contour.closed) {
        path.closeSubpath();
    }
    return path;
}

QTransform toScreen(const PlanCamera& camera)
{
    const QPointF origin = camera.toScreen(Vec2{0.0, 0.0});
    return {camera.pixelsPerMetre, 0.0, 0.0, -camera.pixelsPerMetre, origin.x(), origin.y()};
}

} // namespace

bool ContourLayer::isFigured(double level, double step)
{
    return std::abs(std::remainder(level, 2.0 * step)) < 1e-6;
}

double ContourLayer::stepOf(MapShows shows, double step_db)
{
    constexpr double voicesStep = 4.0;
    return shows == MapShows::voices ? voicesStep : step_db;
}

void ContourLayer::show(const SharedMap& map, const SharedMap& before, const SharedMap& beside, double step_db, int limit)
{
    now_ = drawn(map, before, step_db, limit);
    beside_ = drawn(beside, nullptr, step_db, limit);
    ++version_;
}

ContourLayer::Drawn ContourLayer::drawn(const SharedMap& map, const SharedMap& before, double step_db, int limit)
{
    Drawn drawn;
    drawn.map = map;
    if (map == nullptr || map->grid.cells() == 0) {
        return drawn;
    }
    const MapShows shows = map->choice.shows;
    drawn.step = stepOf(shows, step_db);
    if (hasNumbers(shows)) {
        const bool comparable = before != nullptr && before->grid.columns == map->grid.columns &&
                                before->grid.rows == map->grid.rows && before->storey == map->storey;
        drawn.numbers = mapNumbers(shows, map->cells, comparable ? std::span(before->cells) : std::span<const MapCell>());
        std::vector<double> levels = contourLevels_db(drawn.numbers, drawn.step, shows == MapShows::level ? 60.0 : 200.0);
        // Where nothing has changed there is no line.
        std::erase_if(levels,
                      [&](double level) { return shows == MapShows::difference && std::abs(level) < drawn.step / 2.0; });
        drawn.lines = contoursOf(map->grid, drawn.numbers, levels);
        tint(drawn);
    }
    drawn.answers = mapAnswers(shows, map->cells, limit);
    drawn.regions = mapRegions(map->grid, drawn.answers);
    border(drawn);
    return drawn;
}

void ContourLayer::tint(Drawn& drawn)
{
    const MapGrid& grid = drawn.map->grid;
    const MapShows shows = drawn.map->choice.shows;
    double low = std::numeric_limits<double>::infinity();
    double high = -low;
    for (const double number : drawn.numbers) {
        if (std::isfinite(number)) {
            low = std::min(low, number);
            high = std::max(high, number);
        }
    }
    low = std::max(low, high - 60.0);
    const bool aboutNothing = shows == MapShows::difference || shows == MapShows::reverb;
    constexpr double whole_db = 18.0; // of what lies about nothing
    drawn.tint = QImage(static_cast<int>(grid.columns), static_cast<int>(grid.rows), QImage::Format_ARGB32_Premultiplied);
    for (std::uint32_t row = 0; row < grid.rows; ++row) {
        for (std::uint32_t column = 0; column < grid.columns; ++column) {
            const double number = drawn.numbers[std::size_t{row} * grid.columns + column];
            double share = 0.0;
            QColor colour = theme::ochre;
            if (!std::isfinite(number)) {
                share = 0.0;
            } else if (aboutNothing) {
                colour = number < 0.0 ? theme::lapis : theme::ochre;
                share = std::min(std::abs(number) / whole_db, 1.0);
            } else if (high > low) {
                // In the bands of the lines.
                share = std::clamp((std::floor(number / drawn.step) * drawn.step - low) / (high - low), 0.0, 1.0);
            }
            colour.setAlphaF(static_cast<float>(strongest * share));
            drawn.tint.setPixelColor(static_cast<int>(column), static_cast<int>(grid.rows - 1 - row), colour);
        }
    }
}

/// The sides of cells behind which the answer is another.
void ContourLayer::border(Drawn& drawn)
{
    const MapGrid& grid = drawn.map->grid;
    const double half = grid.cell_m / 2.0;
    const auto at = [&](std::uint32_t column, std::uint32_t row) {
        return drawn.answers[std::size_t{row} * grid.columns + column];
    };
    for (std::uint32_t row = 0; row < grid.rows; ++row) {
        for (std::uint32_t column = 0; column < grid.columns; ++column) {
            const Vec3 middle = grid.at(column, row);
            if (column + 1 < grid.columns && at(column, row) != at(column + 1, row)) {
                drawn.borders.moveTo(middle.x + half, middle.y - half);
                drawn.borders.lineTo(middle.x + half, middle.y + half);
            }
            if (row + 1 < grid.rows && at(column, row) != at(column, row + 1)) {
                drawn.borders.moveTo(middle.x - half, middle.y + half);
                drawn.borders.lineTo(middle.x + half, middle.y + half);
            }
        }
        // Runs of cells with an answer, one rectangle each.
        for (std::uint32_t column = 0; column < grid.columns; ++column) {
            std::uint32_t last = column;
            while (last < grid.columns && at(last, row) != 0) {
                ++last;
            }
            if (last > column) {
                const Vec3 middle = grid.at(column, row);
                drawn.inside.addRect(middle.x - half, middle.y - half, (last - column) * grid.cell_m, grid.cell_m);
                column = last;
            }
        }
    }
}

bool ContourLayer::free(const QRectF& box) const
{
    return std::none_of(written_.begin(), written_.end(), [&](const QRectF& other) { return other.intersects(box); });
}

void ContourLayer::paint(QPainter& painter, const PlanCamera& camera)
{
    written_.clear();
    const QRectF all(QPointF(0, 0), camera.view);
    if (beside_.map == nullptr) {
        paint(painter, camera, now_, all);
        return;
    }
    const double half = std::round(all.width() / 2.0);
    paint(painter, camera, beside_, QRectF(0, 0, half, all.height()));
    paint(painter, camera, now_, QRectF(half, 0, all.width() - half, all.height()));
    painter.setPen(QPen(theme::ink, 1.2));
    painter.drawLine(QPointF(half, 0), QPointF(half, all.height()));
}

void ContourLayer::paint(QPainter& painter, const PlanCamera& camera, const Drawn& drawn, const QRectF& within)
{
    if (drawn.map == nullptr || drawn.map->grid.cells() == 0) {
        return;
    }
    painter.save();
    painter.setClipRect(within);
    const MapGrid& grid = drawn.map->grid;
    if (!drawn.tint.isNull()) {
        const Vec2 corner = grid.from - Vec2{grid.cell_m / 2.0};
        const QPointF topLeft = camera.toScreen(corner + Vec2{0.0, grid.rows * grid.cell_m});
        const QSizeF size(grid.columns * grid.cell_m * camera.pixelsPerMetre, grid.rows * grid.cell_m * camera.pixelsPerMetre);
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.drawImage(QRectF(topLeft, size), drawn.tint);
    }
    const QTransform toSheet = toScreen(camera);
    if (!drawn.inside.isEmpty()) {
        const bool hatched = drawn.map->choice.shows != MapShows::loudest;
        QColor colour = theme::umber;
        colour.setAlpha(hatched ? 150 : 16);
        // Hatching keeps its scale: it is drawn in pixels.
        painter.fillPath(toSheet.map(drawn.inside), QBrush(colour, hatched ? Qt::BDiagPattern : Qt::SolidPattern));
        painter.setPen(QPen(theme::umber, 1.1));
        painter.setBrush(Qt::NoBrush);
        painter.drawPath(toSheet.map(drawn.borders));
    }
    painter.setBrush(Qt::NoBrush);
    for (const Contour& contour : drawn.lines) {
        const bool strong = isFigured(contour.level_db, drawn.step);
        painter.setPen(QPen(theme::umber, strong ? 1.6 : 0.8));
        painter.drawPath(toSheet.map(pathOf(contour)));
    }
    writeNames(painter, camera, drawn, within);
    writeFigures(painter, camera, drawn, within);
    painter.restore();
}

/// Along the lines, upright, on ground of their own.
void ContourLayer::writeFigures(QPainter& painter, const PlanCamera& camera, const Drawn& drawn, const QRectF& within)
{
    painter.setFont(theme::number(8, QFont::Bold));
    const QFontMetricsF metrics(painter.font());
    for (const Contour& contour : drawn.lines) {
        if (!isFigured(contour.level_db, drawn.step)) {
            continue;
        }
        const QString figure = figureOf(drawn.map->choice.shows, contour.level_db);
        const QSizeF size(metrics.horizontalAdvance(figure) + 4.0, metrics.height() - 2.0);
        QPainterPath path = toScreen(camera).map(pathOf(contour));
        const double length = path.length();
        if (length < leastForFigure_px) {
            continue;
        }
        // Every line begins elsewhere, so that figures of neighbours do not stand in a row.
        const double offset = std::fmod(std::abs(contour.level_db) * 37.0, figureEvery_px / 2.0) + leastForFigure_px / 3.0;
        for (double at = offset; at < length; at += figureEvery_px) {
            const double t = path.percentAtLength(at);
            const QPointF place = path.pointAtPercent(t);
            double angle = -path.angleAtPercent(t);
            angle = std::remainder(angle, 360.0);
            angle += std::abs(angle) > 90.0 ? 180.0 : 0.0;
            const QRectF box(place.x() - size.width() / 2.0, place.y() - size.width() / 2.0, size.width(), size.width());
            if (!within.contains(box) || !free(box)) {
                continue;
            }
            written_.push_back(box);
            painter.save();
            painter.translate(place);
            painter.rotate(angle);
            const QRectF own(-size.width() / 2.0, -size.height() / 2.0, size.width(), size.height());
            painter.fillRect(own, theme::seeThrough(theme::paper, 0.15));
            painter.setPen(theme::ink);
            painter.drawText(own, Qt::AlignCenter, figure);
            painter.restore();
        }
    }
}

void ContourLayer::writeNames(QPainter& painter, const PlanCamera& camera, const Drawn& drawn, const QRectF& within)
{
    const auto& emitters = drawn.map->scene->model.level().emitters;
    const auto nameOf = [&](std::uint32_t index) {
        return index < emitters.size() ? QString::fromStdString(emitters[index]->name) : QString();
    };
    painter.setFont(theme::text(8.5, QFont::DemiBold));
    const double cell_px = drawn.map->grid.cell_m * camera.pixelsPerMetre;
    for (const MapRegion& region : drawn.regions) {
        QString name;
        switch (drawn.map->choice.shows) {
        case MapShows::silence: name = QObject::tr("nothing is heard"); break;
        case MapShows::voices: name = QObject::tr("more voices than there are"); break;
        case MapShows::ambiences: name = QObject::tr("%1 and %2").arg(nameOf(region.first), nameOf(region.second)); break;
        case MapShows::masked: name = QObject::tr("%1 under %2").arg(nameOf(region.first), nameOf(region.second)); break;
        default: name = nameOf(region.first); break;
        }
        const theme::LabelSize label = theme::sizeOfLabel(painter.font(), name);
        // Only where the area is about as large as its name.
        const double area_px = static_cast<double>(region.cells) * cell_px * cell_px;
        const QPointF middle = camera.toScreen(region.middle);
        const QRectF box(middle - QPointF(label.size.width() / 2.0, label.size.height() / 2.0), label.size);
        if (area_px < label.size.width() * label.size.height() || !within.contains(box) || !free(box)) {
            continue;
        }
        written_.push_back(box);
        theme::drawHaloed(painter, box.topLeft() + QPointF(0, label.ascent), name, theme::ink);
    }
}

} // namespace stone
