// SPDX-License-Identifier: GPL-3.0-or-later
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

#include <QPaintEvent>
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

/// How fast the fastest of what is drawn has gone since the picture before.
void PlanView::noteMoving(std::vector<QPointF> places)
{
    const double since_s =
        sincePicture_.isValid() ? static_cast<double>(std::max<qint64>(sincePicture_.elapsed(), 1)) / 1000.0 : 0.0;
    fastest_px_s_ = 0.0;
    for (std::size_t i = 0; since_s > 0.0 && places.size() == placesPainted_.size() && i < places.size(); ++i) {
        const bool seen = QRectF(rect()).contains(places[i]);
        fastest_px_s_ = seen ? std::max(fastest_px_s_, distanceBetween(places[i], placesPainted_[i]) / since_s) : fastest_px_s_;
    }
    placesPainted_ = std::move(places);
    sincePicture_.start();
}

void PlanView::paintEvent(QPaintEvent* event)
{
    const QSize size = (QSizeF(this->size()) * devicePixelRatioF()).toSize();
    const bool fits = calm_.size() == size && calm_.devicePixelRatio() == devicePixelRatioF();
    // What lies over the sheet lets it be seen at its borders, and has it painted whenever it is painted itself.
    if (!fits || !event->region().subtracted(earsOnly_ + childrenRegion()).isEmpty()) {
        if (!fits) {
            calm_ = QPixmap(size);
            calm_.setDevicePixelRatio(devicePixelRatioF());
        }
        QPainter onPicture(&calm_);
        paintCalm(onPicture);
        ++wholePaints_;
    }
    earsOnly_ = {};
    QPainter painter(this);
    for (const QRect& part : event->region()) {
        // Within one rectangle rows are copied; within several at once they would go span by span to other threads.
        painter.setClipRect(part);
        painter.drawPixmap(0, 0, calm_);
    }
    painter.setClipping(false);
    painter.setRenderHint(QPainter::Antialiasing);
    paintWalk(painter);
    paintEars(painter);
    paintEarsGrip(painter);
    paintGhostEars(painter);
    paintedAround_ = aroundEars();
}

/// Everything but the ears.
void PlanView::paintCalm(QPainter& painter)
{
    paintStill(painter);
    painter.setRenderHint(QPainter::Antialiasing);
    LabelLayer labels(QRectF(rect()).adjusted(4, 4, -4, -4));
    // Room for what lies over the sheet: the tools above, the Ear dial and the storeys at the right, the scale below.
    labels.keepFree(QRectF(width() - 175, height() - 175, 175, 175));
    labels.keepFree(QRectF(0, height() - 46, 240, 46));
    labels.keepFree(QRectF(0, 0, width(), 44));
    labels.keepFree(overviewRect());
    if (underlay_ != nullptr) {
        for (const QRectF& box : underlay_->written()) {
            labels.keepFree(box);
        }
    }
    for (const Place& place : session_.level().places) {
        labels.keepFree(QRectF(camera_.toScreen(place.at) + QPointF(0, -16), QSizeF(12, 16)));
    }
    std::vector<QPointF> places;
    for (const auto& emitter : session_.level().emitters) {
        if (isOnPlan(*emitter)) {
            places.push_back(camera_.toScreen(placeNow(*emitter)));
            labels.keepFree(QRectF(places.back() - QPointF(8, 8), QSizeF(16, 16)));
        }
    }
    places.push_back(placeOfEars()); // rays and rings go along with them
    noteMoving(std::move(places));
    labels.keepFree(QRectF(placeOfEars() - QPointF(14, 14), QSizeF(28, 28)));
    paintRooms(painter, labels);
    nameZones(labels);
    paintAreas(painter);
    paintSprinkleRange(painter);
    paintPulses(painter);
    if (shows(PlanPart::routes)) {
        paintRoutes(painter);
    }
    paintBlindWalk(painter, labels);
    paintRings(painter, labels);
    paintLobe(painter);
    paintLine(painter, labels);
    paintWalkGrips(painter);
    if (shows(PlanPart::openings) || session_.selected<Opening>() != nullptr) {
        paintOpenings(painter, labels);
    }
    if (shows(PlanPart::rays)) {
        paintRays(painter, labels);
    }
    if (shows(PlanPart::gaze)) {
        paintGaze(painter, labels);
    }
    paintPlants(painter, labels);
    paintEmitters(painter, labels);
    paintShots(painter);
    paintGrips(painter);
    paintPartUnder(painter);
    if (shows(PlanPart::places)) {
        paintPlaces(painter, labels);
    }
    if (shows(PlanPart::posts)) {
        paintPosts(painter, labels);
    }
    if (!shows(PlanPart::names)) {
        labels.keepOnly(LabelLayer::Rank::pointed);
    }
    labels.paint(painter);
    labelBoxes_ = labels.written();
    paintScale(painter);
    paintMeasured(painter);
    paintOverview(painter);
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
    if (walk == nullptr || walk->points.empty() || !shows(PlanPart::walks)) {
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

/// A pennant where something is expected: full where it holds, struck through where it does not.
void PlanView::paintPosts(QPainter& painter, LabelLayer& labels) const
{
    for (const PostMark& mark : postMarks_) {
        if (!onStorey(mark.at.z)) {
            continue;
        }
        const QPointF foot = camera_.toScreen(mark.at);
        const QColor colour = mark.broken ? theme::cinnabar : mark.judged ? theme::verdigris : theme::faint;
        constexpr double pole_px = 16.0;
        const QPointF top = foot + QPointF(0, -pole_px);
        painter.setPen(QPen(mark.judged ? theme::ink : theme::faint, 1.4));
        painter.drawLine(foot, top);
        painter.setPen(QPen(colour, 1.2));
        painter.setBrush(mark.judged && !mark.broken ? QBrush(colour) : QBrush(theme::paper));
        painter.drawPolygon(QPolygonF({top, top + QPointF(11, 4), top + QPointF(0, 8)}));
        if (mark.broken) {
            painter.setPen(QPen(colour, 2.0));
            painter.drawLine(top + QPointF(-3, 9), top + QPointF(11, -2));
        }
        labels.add({.text = mark.text,
                    .font = theme::text(8, QFont::DemiBold),
                    .colour = colour,
                    .at = top + QPointF(4, 4),
                    .radius = 9.0,
                    .rank = mark.broken ? LabelLayer::Rank::pointed : LabelLayer::Rank::place});
    }
}

void PlanView::paintEmitters(QPainter& painter, LabelLayer& labels) const
{
    const Emitter* primary = session_.primary();
    // With what a game that is followed has there, and where it has moved what is the document's.
    const auto& emitters = heardLevel().emitters;
    const std::vector<Heard>& heard = playback_.heard();
    struct Shown {
        const Emitter* emitter;
        double level_db;
        bool gaveWay;
    };
    std::vector<Shown> shown;
    const QRectF view = QRectF(rect()).adjusted(-20, -20, 20, 20);
    for (std::uint32_t i = 0; i < emitters.size(); ++i) {
        const Emitter& emitter = *emitters[i];
        if (!isOnPlan(emitter) || !view.contains(camera_.toScreen(placeNow(emitter)))) {
            continue;
        }
        if (isDrawn(i)) {
            const bool known = i < heard.size();
            shown.push_back({&emitter, known ? heard[i].level_db : silence_db, known && heard[i].gaveWay});
        }
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
        if (item.gaveWay) {
            // An open angle under it, pointing away: there was no room for it.
            painter.setPen(QPen(theme::soft, 1.6));
            painter.drawPolyline(QPolygonF({at + QPointF(-5, 9), at + QPointF(0, 13), at + QPointF(5, 9)}));
        }
        const Playback::Marked marked = playback_.marked(emitter);
        if (marked.muted || marked.hushed) {
            // Struck through by the project in one stroke, for these ears alone in a broken one.
            painter.setPen(QPen(marked.muted ? theme::cinnabar : theme::ink, 2, marked.muted ? Qt::SolidLine : Qt::DotLine));
            painter.drawLine(at + QPointF(-8, 8), at + QPointF(8, -8));
        }
        if (marked.solo) {
            painter.setPen(QPen(theme::ink, 1.4));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(QRectF(at.x() - 10, at.y() - 10, 20, 20));
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
    } else if (session_.level().emitters.empty() && session_.level().plants.empty()) {
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
    constexpr double storeys_px = 130.0; // they lie at the upper right
    const QRectF placed(QPointF(std::max(10.0, (width() - storeys_px - box.width()) / 2.0), 56), box.size());
    painter.setPen(QPen(theme::line, 1));
    painter.setBrush(theme::seeThrough(theme::field, 0.08));
    painter.drawRoundedRect(placed, 6, 6);
    painter.setPen(theme::ink);
    painter.drawText(placed, Qt::AlignCenter, note);
}

} // namespace stone
