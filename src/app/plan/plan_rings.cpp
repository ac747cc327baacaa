// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "acoustics/facing.h"
#include "app/lanes/lane_scale.h"
#include "app/theme/theme.h"
#include "hearing/reasons.h"

#include <QPainter>

#include <cmath>
#include <numbers>

/// What belongs to the selected emitter's falloff on the Plan: its rings, the line to the ears, and how rings are dragged.
namespace stone
{

PlanView::Ring PlanView::ringOf(const Emitter& emitter, double onRuler_m) const
{
    if (emitter.placement.inWorld <= 0.0) {
        return {}; // fixed in the ears: no distance counts
    }
    const double distance_m = onRuler_m * reachFactorOf(session_.project(), emitter);
    const double off = camera_.off(playback_.ears().at) - camera_.off(emitter.at);
    const double squared = distance_m * distance_m - off * off;
    return {squared > 0.0 ? std::sqrt(squared) : 0.0, distance_m, squared > 0.0 && std::isfinite(distance_m)};
}

PlanView::Ring PlanView::fullRing() const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || !hasOnePlace(*emitter)) {
        return {};
    }
    return ringOf(*emitter, fullUpTo_m(falloffOf(session_.project(), *emitter).lanes.front()));
}

PlanView::Ring PlanView::silentRing() const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || !hasOnePlace(*emitter)) {
        return {};
    }
    return ringOf(*emitter, silentOrFaint_m(falloffOf(session_.project(), *emitter).lanes.front()));
}

void PlanView::dragRing(const QPointF& at)
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr) {
        return;
    }
    const double r = distanceBetween(camera_.toScreen(placeNow(*emitter)), at) / camera_.pixelsPerMetre;
    const double off = camera_.off(playback_.ears().at) - camera_.off(emitter->at);
    const double distance = std::round(std::sqrt(r * r + off * off) * 10.0) / 10.0;
    Falloff falloff = falloffOf(session_.project(), *emitter);
    falloff.lanes.front() =
        withRingAt(falloff.lanes.front(), grip_ == Grip::fullRing, distance / reachFactorOf(session_.project(), *emitter));
    const Lane& lane = falloff.lanes.front();
    const QString what = grip_ == Grip::fullRing ? tr("full up to %1").arg(theme::metres(fullUpTo_m(lane)))
                                                 : tr("silent at %1").arg(theme::metres(silentOrFaint_m(lane)));
    const QString of = QString::fromStdString(falloff.name.empty() ? emitter->name : falloff.name);
    session_.edit(withFalloff(session_.project(), session_.levelId(), emitter->id, std::move(falloff)),
                  tr("Falloff of %1: %2").arg(of, what), QString("ring drag %1").arg(gestures_));
}

void PlanView::paintRings(QPainter& painter, LabelLayer& labels) const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || !hasOnePlace(*emitter)) {
        return;
    }
    const QPointF centre = camera_.toScreen(placeNow(*emitter));
    const Lane& lane = falloffOf(session_.project(), *emitter).lanes.front();
    painter.setBrush(Qt::NoBrush);
    const auto draw = [&](const Ring& ring, bool ticks, const QString& text) {
        if (!ring.drawn) {
            return;
        }
        const double r = ring.radius_m * camera_.pixelsPerMetre;
        painter.setPen(QPen(theme::soft, ticks ? 1.1 : 1.4));
        painter.drawEllipse(centre, r, r);
        if (ticks && r > 20.0) {
            for (int tick = 0; tick < 24; ++tick) {
                const double a = tick * std::numbers::pi / 12.0;
                const QPointF way(std::sin(a), std::cos(a));
                painter.drawLine(centre + way * r, centre + way * (r - (tick % 6 == 0 ? 8.0 : 4.0)));
            }
        }
        // Beside the ring where there is room: below, above, then at its sides.
        labels.add({.text = text,
                    .font = theme::text(8, QFont::Bold),
                    .colour = theme::ink,
                    .at = centre + QPointF(0, r),
                    .radius = 1.0,
                    .rank = LabelLayer::Rank::selected,
                    .orAt = {centre + QPointF(0, -1) * r, centre + QPointF(0.8, 0.6) * r, centre + QPointF(-0.8, 0.6) * r,
                             centre + QPointF(0.8, -0.6) * r}});
    };
    const Ring silent = silentRing();
    const bool ends = std::isfinite(silentFrom_m(lane));
    draw(silent, true, (ends ? tr("silent at %1") : tr("−60 dB at %1")).arg(theme::metres(silent.distance_m)));
    // What is tried instead, before it is accepted: its end and its full level, dashed.
    if (const auto& tried = playback_.otherwise().falloff; tried && tried->emitter == emitter->id && !tried->lanes.empty()) {
        painter.setPen(QPen(theme::ink, 1.1, Qt::DashLine));
        for (const double onRuler_m : {silentOrFaint_m(tried->lanes.front()), fullUpTo_m(tried->lanes.front())}) {
            if (const Ring ring = ringOf(*emitter, onRuler_m); ring.drawn) {
                const double r = ring.radius_m * camera_.pixelsPerMetre;
                painter.drawEllipse(centre, r, r);
            }
        }
    }
    const Ring full = fullRing();
    draw(full, false, tr("full level to %1").arg(theme::metres(full.distance_m)));
}

void PlanView::paintLine(QPainter& painter, LabelLayer& labels) const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || !hasOnePlace(*emitter)) {
        return;
    }
    const QPointF from = camera_.toScreen(placeNow(*emitter));
    const QPointF to = camera_.toScreen(playback_.ears().at);
    const auto index = static_cast<std::uint32_t>(session_.primaryIndex());
    if (index >= playback_.heard().size()) {
        return;
    }
    const Heard& heard = playback_.heard()[index];
    painter.setPen(QPen(theme::ink, 1.3, heard.audible ? Qt::SolidLine : Qt::DotLine));
    painter.drawLine(from, to);
    const QPointF middle = (from + to) / 2.0;
    if (std::hypot(from.x() - to.x(), from.y() - to.y()) > 90.0) {
        const std::string silenced = silencedBy(playback_.hearing(), heard);
        const QString what = heard.audible      ? tr("%1 dB").arg(theme::decibels(heard.level_db))
                             : silenced.empty() ? tr("out of earshot")
                                                : QString::fromStdString(silenced);
        const QString text = tr("%1 · %2").arg(theme::metres(heard.bearing.distance_m), what);
        labels.add({.text = text,
                    .font = theme::text(8),
                    .colour = theme::ink,
                    .at = middle,
                    .radius = 2.0,
                    .rank = LabelLayer::Rank::pointed});
    }
}

} // namespace stone
