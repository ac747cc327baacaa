#include "app/plan/plan_view.h"

#include "acoustics/lane.h"
#include "app/blind/blind_walk.h"
#include "app/lanes/lane_scale.h"
#include "app/theme/haloed.h"
#include "app/theme/lobe.h"
#include "app/theme/theme.h"
#include "dsp/decibel.h"
#include "hearing/reasons.h"
#include "world/walk_pose.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

/// How the Plan draws what moves on it. What stays is in plan_still.cpp and plan_sheet.cpp, what the mouse does in
/// plan_grips.cpp.
namespace stone
{

namespace
{

constexpr QSizeF flagSize(14, 18);
constexpr QPointF flagFoot(1, 17); ///< of the pole, from the picture's corner

} // namespace

void PlanView::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    paintStill(painter);
    painter.setRenderHint(QPainter::Antialiasing);
    LabelLayer labels(QRectF(rect()).adjusted(4, 4, -4, -4));
    // Room for what lies over the sheet: the tools above, the Ear dial and the storeys at the right, the scale below.
    labels.keepFree(QRectF(width() - 175, height() - 175, 175, 175));
    labels.keepFree(QRectF(0, height() - 46, 240, 46));
    labels.keepFree(QRectF(0, 0, width(), 44));
    for (const Place& place : session_.level().places) {
        labels.keepFree(QRectF(camera_.toScreen(place.at) + QPointF(0, -16), QSizeF(12, 16)));
    }
    for (const auto& emitter : session_.level().emitters) {
        if (isOnPlan(*emitter)) {
            labels.keepFree(QRectF(camera_.toScreen(placeNow(*emitter)) - QPointF(8, 8), QSizeF(16, 16)));
        }
    }
    labels.keepFree(QRectF(placeOfEars() - QPointF(14, 14), QSizeF(28, 28)));
    paintRooms(painter, labels);
    nameZones(labels);
    paintAreas(painter);
    paintSprinkleRange(painter);
    paintRoutes(painter);
    paintWalk(painter);
    paintBlindWalk(painter, labels);
    paintRings(painter, labels);
    paintLobe(painter);
    paintLine(painter, labels);
    paintWalkGrips(painter);
    paintOpenings(painter, labels);
    paintRays(painter, labels);
    paintGaze(painter, labels);
    paintEmitters(painter, labels);
    paintShots(painter);
    paintGrips(painter);
    paintPartUnder(painter);
    paintEars(painter);
    paintEarsGrip(painter);
    paintGhostEars(painter);
    paintPlaces(painter, labels);
    labels.paint(painter);
    labelBoxes_ = labels.written();
    paintScale(painter);
    paintNotes(painter);
    if (grip_ == Grip::band && moved_) {
        QColor fill = theme::verdigris;
        fill.setAlpha(30);
        painter.setPen(QPen(theme::verdigris, 1, Qt::DashLine));
        painter.setBrush(fill);
        painter.drawRect(QRectF(pressedAt_, lastAt_).normalized());
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme::verdigris, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void PlanView::paintWalk(QPainter& painter) const
{
    const Walk* walk = chosenWalk();
    if (walk == nullptr || walk->points.empty()) {
        return;
    }
    if (playback_.walk_s() > 0.0) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme::soft);
        painter.drawEllipse(camera_.toScreen(walkPose(*walk, playback_.walk_s()).at), 4, 4);
    }
}

const QPixmap& PlanView::flagOf(int key)
{
    const double ratio = devicePixelRatioF();
    if (flags_.empty() || flags_.front().devicePixelRatio() != ratio) {
        flags_.clear();
        constexpr int keys = 9; // beyond them flags have no number
        for (int number = 1; number <= keys + 1; ++number) {
            QPixmap flag(QSizeF(flagSize * ratio).toSize());
            flag.setDevicePixelRatio(ratio);
            flag.fill(Qt::transparent);
            QPainter painter(&flag);
            painter.setRenderHint(QPainter::Antialiasing);
            painter.setPen(QPen(theme::faint, 1.2));
            painter.setBrush(theme::paper);
            painter.drawLine(flagFoot, flagFoot + QPointF(0, -9));
            const QRectF cloth(flagFoot.x(), flagFoot.y() - 15, 11, 8);
            painter.drawRect(cloth);
            painter.setFont(theme::text(6, QFont::Bold));
            painter.setPen(theme::soft);
            if (number <= keys) {
                painter.drawText(cloth, Qt::AlignCenter, QString::number(number));
            }
            flags_.push_back(flag);
        }
    }
    return flags_[std::min(static_cast<std::size_t>(key), flags_.size()) - 1];
}

void PlanView::paintPlaces(QPainter& painter, LabelLayer& labels)
{
    int key = 1;
    for (const Place& place : session_.level().places) {
        const QPointF at = camera_.toScreen(place.at);
        painter.drawPixmap(at - flagFoot, flagOf(key++));
        if (roomIsNamed(place.name)) {
            continue;
        }
        labels.add({.text = QString::fromStdString(place.name),
                    .font = theme::text(7.5),
                    .colour = theme::faint,
                    .at = at + QPointF(5, -11),
                    .radius = 7.0,
                    .rank = LabelLayer::Rank::place});
    }
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

void PlanView::paintEmitters(QPainter& painter, LabelLayer& labels) const
{
    const Emitter* primary = session_.primary();
    const auto& emitters = session_.level().emitters;
    const std::vector<Heard>& heard = playback_.heard();
    struct Shown {
        const Emitter* emitter;
        double level_db;
    };
    std::vector<Shown> shown;
    const QRectF view = QRectF(rect()).adjusted(-20, -20, 20, 20);
    for (std::uint32_t i = 0; i < emitters.size(); ++i) {
        const Emitter& emitter = *emitters[i];
        if (!isOnPlan(emitter) || !view.contains(camera_.toScreen(placeNow(emitter)))) {
            continue;
        }
        shown.push_back({&emitter, i < heard.size() ? heard[i].level_db : silence_db});
    }
    // Names go to the selected first, then to the loudest.
    std::stable_sort(shown.begin(), shown.end(), [&](const Shown& a, const Shown& b) {
        const bool sa = session_.selection().contains(a.emitter->id);
        const bool sb = session_.selection().contains(b.emitter->id);
        return sa != sb ? sa : a.level_db > b.level_db;
    });
    int names = 0;
    for (const Shown& item : shown) {
        const Emitter& emitter = *item.emitter;
        const Vec3 place = placeNow(emitter);
        const QPointF at = camera_.toScreen(place);
        const bool selected = session_.selection().contains(emitter.id);
        const bool here = onStorey(place.z);
        const bool audible = item.level_db >= audible_db;
        if (selected) {
            painter.setPen(QPen(theme::ink, primary == &emitter ? 1.8 : 1.1));
            painter.setBrush(theme::paper);
            painter.drawEllipse(at, 12, 12);
        }
        const QColor colour = audible || selected ? theme::colourOf(emitter.kind) : theme::faint;
        theme::drawMark(painter, emitter.kind, at, 13, colour, !here);
        if (emitter.muted) {
            painter.setPen(QPen(theme::cinnabar, 2));
            painter.drawLine(at + QPointF(-7, 7), at + QPointF(7, -7));
        }
        QString name = QString::fromStdString(emitter.name);
        if (!here) {
            const double floor = session_.level().storeys[static_cast<std::size_t>(storey_)].floor_m;
            name += place.z > floor ? QStringLiteral(" ▴") : QStringLiteral(" ▾");
        }
        // Nobody reads more, and looking for room for thousands would take longer than painting all else.
        constexpr int mostNames = 150;
        if ((selected || here || camera_.pixelsPerMetre > 14.0) && ++names <= mostNames) {
            const bool pointed = hovered_ == emitter.id;
            labels.add({.text = name,
                        .font = theme::text(selected ? 9 : 8, selected ? QFont::Bold : QFont::Normal),
                        .colour = selected || pointed ? theme::ink
                                  : audible           ? theme::soft
                                                      : theme::faint,
                        .at = at,
                        .radius = selected ? 12.0 : 7.0,
                        .rank = primary == &emitter   ? LabelLayer::Rank::selected
                                : selected || pointed ? LabelLayer::Rank::pointed
                                : audible             ? LabelLayer::Rank::heard
                                                      : LabelLayer::Rank::silent,
                        .level_db = item.level_db});
        }
    }
}

namespace
{

/// Where somebody looks: a cone that fades out.
void drawGaze(QPainter& painter)
{
    QPainterPath cone;
    cone.moveTo(0, 0);
    cone.arcTo(QRectF(-54, -54, 108, 108), 90 - 40, 80);
    cone.closeSubpath();
    QRadialGradient gaze(QPointF(0, 0), 54);
    gaze.setColorAt(0.0, QColor(38, 36, 32, 60));
    gaze.setColorAt(1.0, QColor(38, 36, 32, 0));
    painter.setPen(Qt::NoPen);
    painter.setBrush(gaze);
    painter.drawPath(cone);
}

void drawEarMarks(QPainter& painter)
{
    painter.setPen(QPen(theme::ink, 3.2, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(QPointF(-12.5, -2.5), QPointF(-12.5, 2.5));
    painter.drawLine(QPointF(12.5, -2.5), QPointF(12.5, 2.5));
}

void drawNose(QPainter& painter)
{
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ink);
    painter.drawPolygon(QPolygonF{{QPointF(0, -28), QPointF(-5.5, -18), QPointF(5.5, -18)}});
}

} // namespace

void PlanView::paintEars(QPainter& painter) const
{
    const QPointF at = placeOfEars();
    const Stance& stance = playback_.stance();
    const auto apart = [&](const Pose& a, const Pose& b) {
        const QPointF way = camera_.toScreen(a.at) - camera_.toScreen(b.at);
        return std::hypot(way.x(), way.y()) > 3.0 || std::abs(wrapDegrees(a.heading_deg - b.heading_deg)) > 1.0;
    };
    const bool camera = apart(stance.camera, stance.head);
    const bool ears = apart(stance.ears, stance.head);
    const bool here = onStorey(stance.feet.at.z);
    if (camera) {
        painter.setPen(QPen(theme::ink, 1.0, Qt::DotLine));
        painter.drawLine(at, camera_.toScreen(stance.camera.at));
        painter.save();
        painter.translate(camera_.toScreen(stance.camera.at));
        painter.rotate(stance.camera.heading_deg);
        drawGaze(painter);
        // A box with a lens in front.
        painter.setPen(QPen(theme::ink, 1.6));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(-6, -4, 12, 11));
        painter.drawPolygon(QPolygonF{{QPointF(-3, -4), QPointF(-6, -10), QPointF(6, -10), QPointF(3, -4)}});
        painter.restore();
    }
    painter.save();
    painter.translate(at);
    painter.rotate(stance.head.heading_deg);
    if (!camera) {
        drawGaze(painter);
    }
    painter.setPen(QPen(theme::ink, 3.2));
    painter.setBrush(here ? theme::paper : Qt::transparent);
    painter.drawEllipse(QPointF(0, 0), 9, 9);
    if (!ears) {
        drawEarMarks(painter);
    }
    drawNose(painter);
    painter.restore();
    painter.setFont(theme::text(8));
    if (ears) {
        const QPointF listening = camera_.toScreen(stance.ears.at);
        painter.save();
        painter.translate(listening);
        painter.rotate(stance.ears.heading_deg);
        drawEarMarks(painter);
        painter.setPen(QPen(theme::ink, 1.4));
        painter.setBrush(theme::ink);
        painter.drawEllipse(QPointF(0, 0), 5.5, 5.5);
        painter.drawLine(QPointF(0, -5), QPointF(0, -15));
        painter.drawPolygon(QPolygonF{{QPointF(0, -20), QPointF(-3.5, -13), QPointF(3.5, -13)}});
        painter.restore();
        theme::drawHaloed(painter, listening + QPointF(16, 4), tr("ears"), theme::ink);
    }
    if (camera && !(ears && !apart(stance.camera, stance.ears))) {
        theme::drawHaloed(painter, camera_.toScreen(stance.camera.at) + QPointF(14, 4), tr("camera"), theme::ink);
    }
    if (!here) {
        const double floor = session_.level().storeys[static_cast<std::size_t>(storey_)].floor_m;
        theme::drawHaloed(painter, at + QPointF(16, 22),
                          stance.feet.at.z > floor ? tr("you, a storey up ▴") : tr("you, a storey down ▾"), theme::ink);
    }
}

void PlanView::paintLobe(QPainter& painter) const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr || !hasOnePlace(*emitter)) {
        return;
    }
    const QPointF centre = camera_.toScreen(placeNow(*emitter));
    const QPointF front = placeOfFront();
    const double reach = std::hypot(front.x() - centre.x(), front.y() - centre.y());
    if (hasLobe(emitter->lanes)) {
        QColor fill = theme::ochre;
        fill.setAlpha(70);
        painter.setBrush(fill);
        painter.setPen(QPen(theme::ochre, 1.4));
        painter.drawPath(theme::lobe(*emitter, centre, reach - 6.0));
    }
    const QPointF way = (front - centre) / reach;
    const QPointF side(-way.y(), way.x());
    painter.setPen(Qt::NoPen);
    painter.setBrush(hasLobe(emitter->lanes) ? theme::ochre : theme::faint);
    painter.drawPolygon(QPolygonF{front + way * 5, front - way * 4 + side * 5, front - way * 4 - side * 5});
}

/// Ears, or eyes, that are not where the character's rig has them.
void PlanView::paintGhostEars(QPainter& painter) const
{
    const bool eyes = playback_.flight() == Flight::eyes;
    if (!playback_.elsewhere() && playback_.flight() == Flight::none) {
        return;
    }
    const Pose pose = eyes ? playback_.eyes() : playback_.ears();
    painter.save();
    painter.translate(camera_.toScreen(pose.at));
    painter.rotate(pose.heading_deg);
    if (playback_.flight() != Flight::none) {
        drawGaze(painter);
    }
    painter.setPen(QPen(theme::ink, 1.6, Qt::DashLine));
    painter.setBrush(Qt::NoBrush);
    painter.drawEllipse(QPointF(0, 0), 9, 9);
    if (!eyes) {
        painter.setPen(QPen(theme::ink, 2));
        painter.drawLine(QPointF(-12.5, -2), QPointF(-12.5, 2));
        painter.drawLine(QPointF(12.5, -2), QPointF(12.5, 2));
    }
    painter.drawPolygon(QPolygonF{{QPointF(0, -25), QPointF(-4, -18), QPointF(4, -18)}});
    painter.restore();
    painter.setFont(theme::text(8));
    const QString words = playback_.elsewhere()
                              ? tr("listening here")
                              : tr(eyes ? "looking from here, %1 m up" : "ears, flying, %1 m up").arg(pose.at.z, 0, 'f', 1);
    theme::drawHaloed(painter, camera_.toScreen(pose.at) + QPointF(16, -12), words, theme::ink);
}

void PlanView::paintEarsGrip(QPainter& painter) const
{
    if (const auto at = placeOfEarsGrip()) {
        painter.setPen(QPen(theme::ink, 1.2));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(*at - QPointF(3.5, 3.5), QSizeF(7, 7)));
    }
}

void PlanView::paintBlindWalk(QPainter& painter, LabelLayer& labels) const
{
    if (blind_ == nullptr || blind_->on() || blind_->path().size() < 2) {
        return;
    }
    QPolygonF way;
    for (const Vec3& point : blind_->path()) {
        way << camera_.toScreen(point);
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::mallow, 2.2, Qt::SolidLine, Qt::RoundCap));
    painter.drawPolyline(way);
    painter.setBrush(theme::paper);
    painter.drawEllipse(way.first(), 4, 4);
    painter.setBrush(theme::mallow);
    painter.drawEllipse(way.last(), 4, 4);
    painter.setPen(QPen(theme::cinnabar, 2));
    for (const Vec3& bump : blind_->bumps()) {
        const QPointF at = camera_.toScreen(bump);
        painter.drawLine(at - QPointF(4, 4), at + QPointF(4, 4));
        painter.drawLine(at - QPointF(4, -4), at + QPointF(4, -4));
    }
    labels.add({.text = tr("blind walk: %1").arg(blind_->words()),
                .font = theme::text(8.5),
                .colour = theme::mallow,
                .at = way[way.size() / 2],
                .radius = 6.0,
                .rank = LabelLayer::Rank::selected});
}

void PlanView::paintScale(QPainter& painter) const
{
    const double unit = session_.level().metresPerUnit;
    const double step = gridStep(camera_.pixelsPerMetre, 70.0);
    const double px = step * camera_.pixelsPerMetre;
    const QPointF at(16, height() - 18);
    painter.setPen(QPen(theme::ink, 1));
    painter.setBrush(theme::ink);
    painter.drawRect(QRectF(at.x(), at.y(), px / 2, 5));
    painter.setBrush(theme::paper);
    painter.drawRect(QRectF(at.x() + px / 2, at.y(), px / 2, 5));
    painter.setFont(theme::text(8));
    QString text = QString::number(step) + " m";
    if (unit != 1.0) {
        text += QString(" = %1 ").arg(step / unit, 0, 'g', 3) + tr("units");
    }
    theme::drawHaloed(painter, at + QPointF(-3, -5), "0", theme::ink);
    theme::drawHaloed(painter, at + QPointF(px - 6, -5), text, theme::ink);
    const double grid = gridStep(camera_.pixelsPerMetre * unit, 36.0);
    const QString units = unit == 1.0 ? QString() : tr(" (%1 m)").arg(grid * unit, 0, 'g', 3);
    theme::drawHaloed(painter, at + QPointF(px + 60, 5),
                      unit == 1.0 ? tr("grid %1 m").arg(grid) : tr("grid %1 units").arg(grid) + units, theme::soft);
}

void PlanView::paintNotes(QPainter& painter) const
{
    QString note;
    if (playback_.recording()) {
        note = tr("Recording %1 s of a walk: walk with W A S D. Shift+P ends it.").arg(playback_.recorded_s(), 0, 'f', 0);
    } else if (session_.loadingLevel()) {
        note = tr("Reading the level…");
    } else if (!session_.loadedLevel().error.empty()) {
        note = tr("The level cannot be shown: see the findings at the lower left. Everything else works.");
    } else if (session_.level().emitters.empty()) {
        note = tr("Drop sound files here, or drag a sound from the list, to place the first emitter.");
    } else if (tool_ == Tool::draw) {
        note = tr("Click point after point. Enter or a double click ends it, Esc gives it up.");
    } else if (tool_ == Tool::walk) {
        note = tr("Click where the walk leads, point after point; Page Up and Down change the storey. Enter or a double click "
                  "ends it, "
                  "Esc gives it up.");
    } else if (tool_ == Tool::opening) {
        note = drawnPoints_.empty() ? tr("Click one side of the opening, in the wall. Esc gives it up.")
                                    : tr("Click its other side.");
    } else if (tool_ == Tool::fit) {
        note = session_.loadedLevel().mesh() != nullptr
                   ? tr("Click the part of the level to put the shape round. Esc gives it up.")
                   : tr("There is no level to fit it to. Esc.");
    } else if (tool_ == Tool::place) {
        note = tr("Click where the sound is to be. Esc to stop.");
    }
    if (note.isEmpty()) {
        return;
    }
    painter.setFont(theme::text(10));
    const QRectF box = painter.fontMetrics().boundingRect(note).adjusted(-14, -8, 14, 8);
    const QRectF placed(QPointF((width() - box.width()) / 2.0, 56), box.size());
    painter.setPen(QPen(theme::line, 1));
    painter.setBrush(QColor(255, 255, 255, 235));
    painter.drawRoundedRect(placed, 6, 6);
    painter.setPen(theme::ink);
    painter.drawText(placed, Qt::AlignCenter, note);
}

} // namespace stone
