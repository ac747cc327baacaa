// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_sheet.h"

#include "app/theme/theme.h"

#include <QPainterPath>

#include <array>
#include <cmath>

namespace stone
{

namespace
{

/// How deep below its floor a storey still shows what lies there (a track bed below a platform).
constexpr double depth_m = 1.3;

void addOutline(QPainterPath& path, const Outline& outline, const PlanCamera& camera)
{
    QPolygonF points;
    for (const Vec2& p : outline.points) {
        points << camera.toScreen(p);
    }
    path.addPolygon(points);
    if (outline.closed) {
        path.closeSubpath();
    }
}

} // namespace

double gridStep(double pixelsPerUnit, double leastPixels)
{
    const double wanted = leastPixels / pixelsPerUnit;
    const double power = std::pow(10.0, std::floor(std::log10(wanted)));
    for (const double step : {1.0, 2.0, 5.0}) {
        if (step * power >= wanted) {
            return step * power;
        }
    }
    return 10.0 * power;
}

void PlanSheet::setLevel(const LoadedLevel& loaded, const Level& level)
{
    loaded_ = loaded;
    geometry_ = level.geometry;
    metresPerUnit_ = level.metresPerUnit;
    upright_ = level.sideOn;
    across_m_ = upright_ ? across(*upright_, level.character.start) : 0.0;
    storeys_.clear();
    for (const Storey& storey : level.storeys) {
        if (loaded_.cutter && !upright_) {
            storeys_.push_back(loaded_.cutter->at(storey.cut_m));
        }
    }
    setCut(floor_m_, cut_.height_m);
}

void PlanSheet::setCut(double floor_m, double cut_m)
{
    floor_m_ = floor_m;
    if (upright_) {
        const auto& cutter = loaded_.sections[static_cast<std::size_t>(*upright_)];
        cut_ = cutter ? cutter->at(across_m_) : PlanCut{};
        cut_.height_m = cut_m;
        floors_ = {};
    } else {
        cut_ = loaded_.cutter ? loaded_.cutter->at(cut_m) : PlanCut{cut_m, {}};
        floors_ = loaded_.mesh() != nullptr ? floorPlan(*loaded_.mesh(), floor_m - depth_m, cut_m) : FloorPlan{};
    }
    stale_ = true;
    ++version_;
}

void PlanSheet::paint(QPainter& painter, const PlanCamera& camera, double devicePixelRatio, bool grid)
{
    const QSize size = (camera.view * devicePixelRatio).toSize();
    if (stale_ || grid != gridded_ || camera != pictured_ || picture_.size() != size) {
        picture_ = QPixmap(size);
        picture_.setDevicePixelRatio(devicePixelRatio);
        QPainter onPicture(&picture_);
        draw(onPicture, camera, grid);
        pictured_ = camera;
        gridded_ = grid;
        stale_ = false;
    }
    painter.drawPixmap(0, 0, picture_);
}

void PlanSheet::draw(QPainter& painter, const PlanCamera& camera, bool grid) const
{
    painter.fillRect(QRectF(QPointF(0, 0), camera.view), theme::paper);
    drawPicture(painter, camera);
    drawFloors(painter, camera);
    if (grid) {
        drawGrid(painter, camera, metresPerUnit_);
    }
    drawWalls(painter, camera);
}

void drawGrid(QPainter& painter, const PlanCamera& camera, double metresPerUnit)
{
    const double step = gridStep(camera.pixelsPerMetre * metresPerUnit, 36.0) * metresPerUnit;
    const Vec2 low = camera.toLevel({0.0, camera.view.height()});
    const Vec2 high = camera.toLevel({camera.view.width(), 0.0});
    for (int axis = 0; axis < 2; ++axis) {
        for (double at = std::ceil(low[axis] / step) * step; at <= high[axis]; at += step) {
            const bool fifth = std::llround(at / step) % 5 == 0;
            painter.setPen(QPen(fifth ? theme::line : theme::grid, 1));
            if (axis == 0) {
                const double x = std::floor(camera.toScreen(Vec2{at, 0.0}).x()) + 0.5;
                painter.drawLine(QPointF(x, 0), QPointF(x, camera.view.height()));
            } else {
                const double y = std::floor(camera.toScreen(Vec2{0.0, at}).y()) + 0.5;
                painter.drawLine(QPointF(0, y), QPointF(camera.view.width(), y));
            }
        }
    }
}

void PlanSheet::drawPicture(QPainter& painter, const PlanCamera& camera) const
{
    const auto* laid = std::get_if<GeometryPicture>(&geometry_);
    if (laid == nullptr || loaded_.picture.isNull()) {
        return;
    }
    const double height = laid->width_m * loaded_.picture.height() / std::max(loaded_.picture.width(), 1);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.setOpacity(0.6);
    painter.drawImage(
        QRectF(camera.toScreen(laid->at + Vec2{0.0, height}), camera.toScreen(laid->at + Vec2{laid->width_m, 0.0})),
        loaded_.picture);
    painter.setOpacity(1.0);
}

void PlanSheet::drawFloors(QPainter& painter, const PlanCamera& camera) const
{
    painter.setPen(Qt::NoPen);
    painter.setRenderHint(QPainter::Antialiasing, false);
    for (const FloorPlan::Face& face : floors_.faces) {
        QPolygonF corners;
        for (const Vec2& corner : face.corners) {
            corners << camera.toScreen(corner);
        }
        const bool sunken = face.height_m < floor_m_ - 0.3;
        painter.setBrush(sunken ? theme::sunkenTint() : theme::floorTint(face.material));
        painter.drawConvexPolygon(corners);
    }
    painter.setRenderHint(QPainter::Antialiasing);
    // Lines that would lie closer together than they are wide turn grey areas: left out when far away.
    if (camera.pixelsPerMetre > 4.0) {
        painter.setPen(QPen(theme::edge, 0.8));
        for (const FloorPlan::Edge& edge : floors_.edges) {
            painter.drawLine(camera.toScreen(edge.from), camera.toScreen(edge.to));
        }
    }
}

void PlanSheet::drawWalls(QPainter& painter, const PlanCamera& camera) const
{
    QPainterPath others;
    for (const PlanCut& storey : storeys_) {
        for (const Outline& outline : storey.outlines) {
            addOutline(others, outline, camera);
        }
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::edge, 0.8, Qt::DashLine));
    painter.drawPath(others);
    drawCut(painter, camera, cut_);
}

void drawCut(QPainter& painter, const PlanCamera& camera, const PlanCut& cut)
{
    QPainterPath filled;
    filled.setFillRule(Qt::WindingFill);
    QPainterPath lines;
    for (const Outline& outline : cut.outlines) {
        addOutline(outline.filled ? filled : lines, outline, camera);
    }
    painter.setPen(QPen(theme::ink, 0.8));
    painter.setBrush(theme::ink);
    painter.drawPath(filled);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::ink, 1.6));
    painter.drawPath(lines);
}

} // namespace stone
