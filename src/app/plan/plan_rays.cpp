// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/theme/theme.h"
#include "dsp/octave_bands.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

/// How the Plan draws what stands between the ears and what is selected, and where somebody looks.
namespace stone
{

namespace
{

constexpr double wedge_px = 120.0;
/// Ways so much softer than the loudest are not named, and these not drawn.
constexpr double softWay_db = 10.0;
constexpr double faintWay_db = 20.0;
/// A way that is no longer than this goes straight: the rays say it all.
constexpr double straight_m = 0.05;

/// A short bar across a way.
void drawBar(QPainter& painter, const QPointF& at, const QPointF& along)
{
    const double length = std::hypot(along.x(), along.y());
    if (length > 0.0) {
        const QPointF across = QPointF(-along.y(), along.x()) / length * 4.5;
        painter.drawLine(at - across, at + across);
    }
}

/// By how much a way turns in all, degrees.
double turned_deg(const std::vector<Vec3>& points)
{
    double sum = 0.0;
    for (std::size_t i = 1; i + 1 < points.size(); ++i) {
        const Vec3 before = points[i] - points[i - 1];
        const Vec3 after = points[i + 1] - points[i];
        const double lengths = glm::length(before) * glm::length(after);
        sum += lengths > 0.0 ? degrees(std::acos(std::clamp(glm::dot(before, after) / lengths, -1.0, 1.0))) : 0.0;
    }
    return sum;
}

} // namespace

void PlanView::paintRays(QPainter& painter, LabelLayer& labels) const
{
    const int index = session_.primaryIndex();
    const HearingModel& model = playback_.hearing();
    if (index < 0 || static_cast<std::size_t>(index) >= playback_.heard().size()) {
        return;
    }
    const auto told = model.explain(playback_.moment(), playback_.heard()[static_cast<std::size_t>(index)]);
    if (!told || told->screened.rays == 0) {
        return;
    }
    const QPointF ears = camera_.toScreen(playback_.ears().at);
    for (const RaySeen& ray : told->rays) {
        const QPointF to = camera_.toScreen(ray.to);
        const bool free = ray.walls.empty() && !ray.leaf;
        painter.setPen(QPen(free ? theme::verdigris : theme::soft, free ? 1.1 : 0.8, free ? Qt::SolidLine : Qt::DotLine));
        painter.drawLine(ears, to);
        painter.setPen(QPen(theme::ink, 1.8));
        for (const RaySeen::Wall& wall : ray.walls) {
            drawBar(painter, camera_.toScreen(wall.at), to - ears);
        }
    }
    // What the first ray meets is named: one name says it for all.
    for (const RaySeen::Wall& wall : told->rays.front().walls) {
        const QString name = QString::fromStdString(model.occluder().surfaces()[wall.surface]);
        labels.add({.text = name.isEmpty() ? tr("unnamed") : name,
                    .font = theme::text(7.5),
                    .colour = theme::ink,
                    .at = camera_.toScreen(wall.at),
                    .radius = 6.0,
                    .rank = LabelLayer::Rank::pointed});
    }
    painter.setBrush(Qt::NoBrush);
    double loudest_db = -1e9;
    for (const WaySeen& way : told->ways) {
        loudest_db = std::max(loudest_db, -way.loss_db()[spokenBand]);
    }
    for (const WaySeen& way : told->ways) {
        const double below_db = loudest_db + way.loss_db()[spokenBand];
        if (below_db > faintWay_db) {
            continue;
        }
        QPolygonF line;
        for (const Vec3& point : way.points) {
            line << camera_.toScreen(point);
        }
        if (way.detour_m <= 0.0 && !way.openings) {
            continue;
        }
        painter.setPen(QPen(theme::lapis, 1.4, Qt::DashLine));
        painter.drawPolyline(line);
        if (below_db <= softWay_db && way.detour_m > straight_m) {
            labels.add({.text = tr("+%1 · %2° · −%3 dB")
                                    .arg(theme::metres(way.detour_m))
                                    .arg(turned_deg(way.points), 0, 'f', 0)
                                    .arg(way.loss_db()[spokenBand], 0, 'f', 1),
                        .font = theme::text(7.5),
                        .colour = theme::lapis,
                        .at = line[line.size() / 2],
                        .radius = 4.0,
                        .rank = LabelLayer::Rank::pointed});
        }
    }
}

void PlanView::paintGaze(QPainter& painter, LabelLayer& labels) const
{
    const Project& project = *playback_.shownProject();
    const Pose gaze = playback_.moment().gaze;
    const QPointF from = camera_.toScreen(gaze.at);
    for (const auto& known : project.gazes) {
        if (!known->on || camera_.upright) {
            continue;
        }
        // The wedge of the first lane with two angles: within the inner one it is looked at, beyond the outer it is not.
        const auto lane = std::find_if(known->lanes.begin(), known->lanes.end(),
                                       [](const Lane& l) { return l.on && l.shape == LaneShape::twoAngles; });
        if (lane == known->lanes.end()) {
            continue;
        }
        painter.setBrush(Qt::NoBrush);
        for (const auto& [full_deg, style] :
             {std::pair(lane->angles.inner_deg, Qt::SolidLine), {lane->angles.outer_deg, Qt::DashLine}}) {
            painter.setPen(QPen(theme::mallow, 1.1, style));
            for (const double side : {-0.5, 0.5}) {
                const double heading = radians(gaze.heading_deg + side * full_deg);
                painter.drawLine(from, from + QPointF(std::sin(heading), -std::cos(heading)) * wedge_px);
            }
        }
        const double heading = radians(gaze.heading_deg);
        labels.add({.text = tr("gaze: %1").arg(QString::fromStdString(known->name)),
                    .font = theme::text(7.5),
                    .colour = theme::mallow,
                    .at = from + QPointF(std::sin(heading), -std::cos(heading)) * wedge_px,
                    .radius = 2.0,
                    .rank = LabelLayer::Rank::place});
    }
}

} // namespace stone
