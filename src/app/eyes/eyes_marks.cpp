// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/eyes/eyes_view.h"

#include "app/plan/drawn_shape.h"
#include "app/plan/label_layer.h"
#include "app/theme/haloed.h"
#include "app/theme/theme.h"
#include "dsp/decibel.h"
#include "hearing/terms.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

/// The marks that are laid over the picture: what is there to hear, and where the ears are.
namespace stone
{

namespace
{

constexpr double mostFar_m = 90.0;
constexpr double smallest_px = 7.0;
constexpr double largest_px = 24.0;
constexpr double markSize_m = 0.35;
constexpr int mostNames = 40;
constexpr std::size_t mostMarks = 400;

} // namespace

void EyesView::paintZones(QPainter& painter, const Sight& sight, LabelLayer& labels) const
{
    for (const auto& zone : session_.level().zones) {
        const Solid solid(zone->shape, frameNow(playback_, zone->at, zone->heading_deg, zone->riding));
        const auto [low, high] = solid.box();
        const bool selected = session_.selected<Zone>() == zone.get();
        QColor colour = theme::lapis;
        colour.setAlpha(selected ? 255 : 70);
        painter.setPen(QPen(colour, selected ? 2.0 : 1.0, Qt::DashDotLine));
        for (const auto& outline : solid.footprint()) {
            for (std::size_t i = 0; i < outline.size(); ++i) {
                const Vec2& a = outline[i];
                const Vec2& b = outline[(i + 1) % outline.size()];
                for (const double z : {low.z, high.z}) {
                    if (const auto line = sight.line({a, z}, {b, z})) {
                        painter.drawLine(line->first, line->second);
                    }
                }
                if (const auto post = outline.size() <= 8 ? sight.line({a, low.z}, {a, high.z}) : std::nullopt) {
                    painter.drawLine(post->first, post->second);
                }
            }
        }
        if (const auto at = sight.at({(low.x + high.x) / 2.0, (low.y + high.y) / 2.0, high.z})) {
            labels.add({.text = QString::fromStdString(zone->name).toUpper(),
                        .font = theme::text(7.5),
                        .colour = theme::lapis,
                        .at = *at,
                        .radius = 2.0,
                        .rank = LabelLayer::Rank::space});
        }
    }
}

void EyesView::paintEmitters(QPainter& painter, const Sight& sight, LabelLayer& labels) const
{
    const auto& emitters = session_.level().emitters;
    const std::vector<Heard>& heard = playback_.heard();
    struct Shown {
        const Emitter* emitter;
        Vec3 place;
        QPointF at;
        double level_db;
        bool selected;
    };
    std::vector<Shown> shown;
    const auto show = [&](const Emitter& emitter, std::size_t i, bool selected) {
        const Vec3 place = i < heard.size() && emitter.kind == EmitterKind::area ? heard[i].at : placeNow(playback_, emitter);
        const auto at = sight.at(place);
        if (isOnPlan(emitter) && at && (selected || glm::length(place - sight.from().at) <= mostFar_m)) {
            shown.push_back({&emitter, place, *at, i < heard.size() ? heard[i].level_db : silence_db, selected});
        }
    };
    for (std::size_t i = 0; i < emitters.size(); ++i) {
        show(*emitters[i], i, session_.selection().contains(emitters[i]->id));
    }
    for (const PlantedRule& rule : playback_.hearing().world().planted().rules) {
        for (std::size_t i = 0; i < rule.copies.size(); ++i) {
            show(*rule.copies[i], rule.first + i, rule.copies[i]->id == session_.copyInHand());
        }
    }
    std::stable_sort(shown.begin(), shown.end(), [](const Shown& a, const Shown& b) {
        return a.selected != b.selected ? a.selected : a.level_db > b.level_db;
    });
    // For each it is asked whether something hides it.
    shown.resize(std::min(shown.size(), mostMarks));
    int names = 0;
    for (const Shown& item : shown) {
        const bool behind = hidden(item.place);
        const double size = std::clamp(markSize_m * sight.pixelsPerMetre(item.place), smallest_px, largest_px);
        if (item.selected) {
            painter.setPen(QPen(theme::ink, 1.8));
            painter.setBrush(theme::paper);
            painter.drawEllipse(item.at, size, size);
        }
        const bool audible = item.level_db >= audible_db;
        const QColor colour = audible || item.selected ? theme::colourOf(item.emitter->kind) : theme::faint;
        theme::drawMark(painter, item.emitter->kind, item.at, size, colour, behind);
        if (item.selected || (audible && ++names <= mostNames)) {
            const QString name = QString::fromStdString(item.emitter->name);
            labels.add({.text = behind ? tr("%1 (behind)").arg(name) : name,
                        .font = theme::text(item.selected ? 9 : 8, item.selected ? QFont::Bold : QFont::Normal),
                        .colour = item.selected ? theme::ink : theme::soft,
                        .at = item.at,
                        .radius = size * 0.6 + 2.0,
                        .rank = item.selected ? LabelLayer::Rank::selected : LabelLayer::Rank::heard,
                        .level_db = item.level_db});
        }
    }
}

/// Ears that are not where one looks from: two bars, as on the Plan, and which way they face.
void EyesView::paintEars(QPainter& painter, const Sight& sight) const
{
    const Pose ears = playback_.ears();
    if (glm::length(ears.at - sight.from().at) < 0.3) {
        return;
    }
    const Frame frame = frameOf(ears);
    const auto at = sight.at(ears.at);
    const auto left = sight.at(ears.at - frame.right * 0.16);
    const auto right = sight.at(ears.at + frame.right * 0.16);
    const auto ahead = sight.at(ears.at + frame.ahead * 0.5);
    if (!at || !left || !right || !ahead) {
        return;
    }
    painter.setPen(QPen(theme::ink, 2.2, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(*left, *right);
    painter.setPen(QPen(theme::ink, 1.4));
    painter.drawLine(*at, *ahead);
    painter.setBrush(theme::ink);
    painter.drawEllipse(*left, 3.2, 3.2);
    painter.drawEllipse(*right, 3.2, 3.2);
    painter.drawEllipse(*ahead, 2.0, 2.0);
    painter.setFont(theme::text(8));
    theme::drawHaloed(painter, *at + QPointF(10, -8), tr("ears"), theme::ink);
}

void EyesView::paintWords(QPainter& painter) const
{
    const Pose& eyes = playback_.eyes();
    QString words;
    switch (playback_.flight()) {
    case Flight::none:
        words =
            tr("%1 · drag to look round").arg(QString::fromStdString(rigOf(session_.project(), session_.project().rig).name));
        break;
    case Flight::ears: words = tr("The ears fly: W A S D, Page Up and Down, drag · F4 brings them back"); break;
    case Flight::eyes: words = tr("Looking round, the ears stay: W A S D, Page Up and Down, drag · F5 goes back"); break;
    }
    words += tr(" · heading %1°, %2° up").arg(std::lround(eyes.heading_deg)).arg(theme::signedNumber(eyes.pitch_deg, 0));
    painter.setFont(theme::text(8.5));
    theme::drawHaloed(painter, QPointF(12, 18), words, theme::ink);
    if (!loaded_) {
        theme::drawHaloed(painter, QPointF(12, 38), tr("The level has no geometry: only marks are shown."), theme::soft);
    }
}

} // namespace stone
