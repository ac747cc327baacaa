// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/plan/drawn_shape.h"
#include "app/theme/theme.h"
#include "dsp/decibel.h"
#include "geometry/drawing.h"

#include <QPainter>

#include <algorithm>
#include <cmath>
#include <unordered_map>

/// What plant rules put on the Plan.
namespace stone
{

namespace
{

/// Copies nearer to each other than this are drawn as one.
constexpr double joined_px = 13.0;
constexpr double copyGrab_px = 9.0;

/// Copies of one rule that are drawn as one.
struct Clump {
    QPointF sum{0, 0};
    int count = 0;
    double level_db = silence_db;
    bool here = false; ///< some are on the shown storey
};

std::uint64_t clumpKey(const QPointF& at)
{
    const auto part = [](double px) {
        return static_cast<std::uint32_t>(static_cast<std::int32_t>(std::floor(px / joined_px)));
    };
    return static_cast<std::uint64_t>(part(at.x())) << 32U | part(at.y());
}

} // namespace

void PlanView::paintPlants(QPainter& painter, LabelLayer& labels) const
{
    const Planted& planted = playback_.hearing().world().planted();
    const std::vector<Heard>& heard = playback_.heard();
    const QRectF view = QRectF(rect()).adjusted(-joined_px, -joined_px, joined_px, joined_px);
    for (const PlantedRule& rule : planted.rules) {
        const bool selected = session_.selected<Plant>() != nullptr && session_.selected<Plant>()->id == rule.plant->id;
        if (selected) {
            paintPlantLine(painter);
        }
        if (selected && rule.trouble == PlantTrouble::off) {
            // Where it would plant: nothing sounds there yet.
            painter.setPen(QPen(theme::soft, 1.0));
            painter.setBrush(Qt::NoBrush);
            for (const PlantSpot& spot : rule.spots->spots) {
                const QPointF at = camera_.toScreen(spot.at);
                if (view.contains(at)) {
                    painter.drawEllipse(at, 4, 4);
                }
            }
        }
        std::unordered_map<std::uint64_t, Clump> clumps;
        for (std::size_t i = 0; i < rule.copies.size(); ++i) {
            const Vec3& place = rule.copies[i]->at;
            const QPointF at = camera_.toScreen(place);
            if (!view.contains(at)) {
                continue;
            }
            const std::size_t index = rule.first + i;
            const double level_db = index < heard.size() ? heard[index].level_db : silence_db;
            if (!selected && level_db < audible_db && !shows(PlanPart::silent)) {
                continue;
            }
            Clump& clump = clumps[clumpKey(at)];
            clump.sum += at;
            clump.level_db = std::max(clump.level_db, level_db);
            clump.here = clump.here || onStorey(place.z);
            ++clump.count;
        }
        const EmitterKind kind = rule.copies.empty() ? EmitterKind::point : rule.copies.front()->kind;
        for (const auto& [key, clump] : clumps) {
            const QPointF at = clump.sum / clump.count;
            const QColor colour = clump.level_db >= audible_db || selected ? theme::colourOf(kind) : theme::faint;
            if (clump.count == 1) {
                theme::drawMark(painter, kind, at, 9, colour, !clump.here);
                continue;
            }
            // Many in one place: the more, the bigger.
            const double r = 3.0 + 0.8 * std::log2(clump.count);
            painter.setPen(QPen(colour, 1.2));
            painter.setBrush(clump.here ? QBrush(colour, Qt::Dense4Pattern) : QBrush(theme::paper));
            painter.drawEllipse(at, r, r);
        }
        if (selected) {
            paintCopyInHand(painter, labels, rule);
        }
    }
}

/// The line or the outline that the selected rule goes by.
void PlanView::paintPlantLine(QPainter& painter) const
{
    const auto drawn = drawnShape(session_, playback_);
    if (!drawn) {
        return;
    }
    painter.setPen(QPen(theme::ink, 1.2, Qt::DashLine));
    painter.setBrush(Qt::NoBrush);
    if (const auto* ribbon = std::get_if<Ribbon>(&drawn->shape)) {
        QPolygonF line;
        for (const Vec3& point : ribbon->points) {
            line << camera_.toScreen(placed(drawn->frame, point));
        }
        ribbon->closed ? painter.drawPolygon(line) : painter.drawPolyline(line);
        return;
    }
    for (const QPolygonF& outline : outlinesOf(drawn->shape, drawn->frame)) {
        painter.drawPolygon(outline);
    }
}

void PlanView::paintCopyInHand(QPainter& painter, LabelLayer& labels, const PlantedRule& rule) const
{
    for (const auto& copy : rule.copies) {
        if (copy->id != session_.copyInHand()) {
            continue;
        }
        const QPointF at = camera_.toScreen(copy->at);
        painter.setPen(QPen(theme::ink, 1.8));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(at, 10, 10);
        labels.add({.text = QString::fromStdString(copy->name),
                    .font = theme::text(9, QFont::Bold),
                    .colour = theme::ink,
                    .at = at,
                    .radius = 11.0,
                    .rank = LabelLayer::Rank::selected});
    }
}

/// The copy under a place; empty for none. Of the selected rule before others.
EmitterId PlanView::copyAt(const QPointF& at) const
{
    const std::vector<Heard>& heard = playback_.heard();
    EmitterId best;
    double nearest_px = copyGrab_px;
    for (const PlantedRule& rule : playback_.hearing().world().planted().rules) {
        const bool selected = session_.selected<Plant>() != nullptr && session_.selected<Plant>()->id == rule.plant->id;
        for (std::size_t i = 0; i < rule.copies.size(); ++i) {
            const QPointF there = camera_.toScreen(rule.copies[i]->at);
            const double away_px = std::hypot(there.x() - at.x(), there.y() - at.y()) - (selected ? 1.0 : 0.0);
            const bool drawn = selected || shows(PlanPart::silent) ||
                               (rule.first + i < heard.size() && heard[rule.first + i].level_db >= audible_db);
            if (away_px < nearest_px && drawn) {
                nearest_px = away_px;
                best = rule.copies[i]->id;
            }
        }
    }
    return best;
}

/// What is planted along a drawn line, or in a drawn shape, is carried with any of its copies.
void PlanView::dragPlant(const QPointF& at)
{
    const auto* plant = session_.selected<Plant>();
    if (plant == nullptr || (plant->where != Plant::Where::line && plant->where != Plant::Where::shape)) {
        return;
    }
    session_.editThing<Plant>(tr("moved"), QString("drag %1").arg(gestures_),
                              [&](Plant& moved) { moved.at = camera_.placed(draggedTo(at), moved.at); });
}

} // namespace stone
