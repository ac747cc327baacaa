// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/plan/outline_distance.h"
#include "app/theme/lobe.h"
#include "app/theme/theme.h"

#include <QPainter>
#include <QPainterPath>
#include <QPixmapCache>

#include <cmath>

/// The character with its ears and camera on the Plan, and how the ears are pulled towards the camera.
namespace stone
{

namespace
{

constexpr double earsGrip_px = 22.0; ///< ears are pulled no nearer to the head than this

} // namespace

namespace
{

/// Where somebody at the painter's origin looks: a cone that fades out. It is kept as a picture for each degree, since most of
/// the time nobody turns: Qt hands a fill like this to other threads in pieces, thirty times a second.
void drawGaze(QPainter& painter, double heading_deg)
{
    constexpr int reach = 54;
    constexpr int wide_deg = 80;
    const int heading = static_cast<int>(std::lround(heading_deg));
    const double ratio = painter.device()->devicePixelRatioF();
    const QString key = QString("gaze %1 %2 %3").arg(heading).arg(ratio).arg(theme::ink.rgba());
    QPixmap picture;
    if (!QPixmapCache::find(key, &picture)) {
        picture = QPixmap(QSize(2 * reach, 2 * reach) * ratio);
        picture.setDevicePixelRatio(ratio);
        picture.fill(Qt::transparent);
        QPainterPath cone;
        cone.moveTo(0, 0);
        cone.arcTo(QRectF(-reach, -reach, 2 * reach, 2 * reach), 90.0 - heading - wide_deg / 2.0, wide_deg);
        cone.closeSubpath();
        QRadialGradient gaze(QPointF(0, 0), reach);
        gaze.setColorAt(0.0, theme::seeThrough(theme::ink, 0.76));
        gaze.setColorAt(1.0, theme::seeThrough(theme::ink, 1.0));
        QPainter onPicture(&picture);
        onPicture.setRenderHint(QPainter::Antialiasing);
        onPicture.translate(reach, reach);
        onPicture.setPen(Qt::NoPen);
        onPicture.setBrush(gaze);
        onPicture.drawPath(cone);
        onPicture.end();
        QPixmapCache::insert(key, picture);
    }
    painter.drawPixmap(-reach, -reach, picture);
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

bool PlanView::frontIsSeen() const
{
    const Emitter* emitter = session_.primary();
    constexpr double least_px = 8.0;
    return emitter != nullptr && distanceBetween(placeOfFront(), camera_.toScreen(placeNow(*emitter))) > least_px;
}

/// The character from the side: where it stands, its head, which way that faces, and camera and ears where they are elsewhere.
void PlanView::paintFigure(QPainter& painter) const
{
    const Stance& stance = playback_.stance();
    const QPointF feet = camera_.toScreen(stance.feet.at);
    const QPointF head = camera_.toScreen(stance.head.at);
    const QPointF camera = camera_.toScreen(stance.camera.at);
    const QPointF ears = camera_.toScreen(stance.ears.at);
    painter.setPen(QPen(theme::ink, 2.2, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(feet, head);
    painter.drawLine(feet - QPointF(7, 0), feet + QPointF(7, 0));
    painter.setFont(theme::text(8));
    constexpr double apart_px = 4.0;
    if (distanceBetween(camera, head) > apart_px) {
        painter.setPen(QPen(theme::ink, 1.0, Qt::DotLine));
        painter.drawLine(head, camera);
        painter.setPen(QPen(theme::ink, 1.4));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(camera - QPointF(6, 5), QSizeF(12, 10)));
        theme::drawHaloed(painter, camera + QPointF(11, 4), tr("camera"), theme::ink);
    }
    painter.setPen(QPen(theme::ink, 3.0));
    painter.setBrush(theme::paper);
    painter.drawEllipse(head, 8.5, 8.5);
    // Whoever faces along the sheet has a nose; into it one sees the back of the head, out of it two eyes.
    const Vec3 faces = aheadOf(stance.head.heading_deg, stance.head.pitch_deg);
    const Vec2 along = camera_.toSheet(faces);
    constexpr double sideways = 0.35;
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ink);
    if (glm::length(along) > sideways) {
        const QPointF way = QPointF(along.x, -along.y) / glm::length(along);
        const QPointF aside(-way.y(), way.x());
        painter.drawPolygon(QPolygonF{head + way * 20.0, head + way * 10.5 + aside * 5.0, head + way * 10.5 - aside * 5.0});
    } else if (glm::dot(faces, aheadOf(headingInto(*camera_.upright), 0.0)) < 0.0) {
        painter.drawEllipse(head + QPointF(-3, -1), 1.4, 1.4);
        painter.drawEllipse(head + QPointF(3, -1), 1.4, 1.4);
    }
    // Ears that face into the sheet lie to both sides of the head, as they do for whoever looks at it.
    const Vec2 left = camera_.toSheet(frameOf(stance.ears).right) * -1.0;
    const QPointF reach = QPointF(left.x, -left.y) * 12.5;
    painter.setPen(QPen(theme::ink, 3.2, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(ears + reach - QPointF(0, 2.5), ears + reach + QPointF(0, 2.5));
    painter.drawLine(ears - reach - QPointF(0, 2.5), ears - reach + QPointF(0, 2.5));
    if (distanceBetween(ears, head) > apart_px) {
        painter.setBrush(theme::ink);
        painter.drawEllipse(ears, 5.0, 5.0);
        theme::drawHaloed(painter, ears + QPointF(16, 4), tr("ears"), theme::ink);
    }
}

void PlanView::paintEars(QPainter& painter) const
{
    if (camera_.upright) {
        paintFigure(painter);
        return;
    }
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
        drawGaze(painter, stance.camera.heading_deg);
        painter.rotate(stance.camera.heading_deg);
        // A box with a lens in front.
        painter.setPen(QPen(theme::ink, 1.6));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(-6, -4, 12, 11));
        painter.drawPolygon(QPolygonF{{QPointF(-3, -4), QPointF(-6, -10), QPointF(6, -10), QPointF(3, -4)}});
        painter.restore();
    }
    painter.save();
    painter.translate(at);
    if (!camera) {
        drawGaze(painter, stance.head.heading_deg);
    }
    painter.rotate(stance.head.heading_deg);
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
    if (!frontIsSeen()) {
        return;
    }
    if (hasLobe(emitter->lanes) && !camera_.upright) {
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
    if (playback_.flight() != Flight::none) {
        drawGaze(painter, pose.heading_deg);
    }
    painter.rotate(pose.heading_deg);
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

std::optional<QPointF> PlanView::placeOfEarsGrip() const
{
    const Stance& stance = playback_.stance();
    const QPointF from = camera_.toScreen(stance.head.at);
    const QPointF to = camera_.toScreen(stance.camera.at);
    const double length = distanceBetween(from, to);
    const Rig* rig = session_.project().rigs.find(session_.project().rig);
    if (rig == nullptr || length < 2.0 * earsGrip_px) {
        return {};
    }
    // Out of the character's way, so that either can be taken hold of.
    return from + (to - from) * (std::max(rig->ears * length, earsGrip_px) / length);
}

void PlanView::dragEarsShare(const QPointF& at)
{
    const Rig* found = session_.project().rigs.find(session_.project().rig);
    if (found == nullptr) {
        return;
    }
    const Stance& stance = playback_.stance();
    const QPointF from = camera_.toScreen(stance.head.at);
    const QPointF line = camera_.toScreen(stance.camera.at) - from;
    const double length = std::hypot(line.x(), line.y());
    const double along = QPointF::dotProduct(at - from, line) / length;
    Rig rig = *found;
    rig.ears = along <= earsGrip_px ? 0.0 : std::clamp(std::round(100.0 * along / length) / 100.0, 0.0, 1.0);
    const QString what = tr("Rig %1: ears %2 % of the way to the camera")
                             .arg(QString::fromStdString(rig.name))
                             .arg(std::lround(100.0 * rig.ears));
    Project next = session_.project();
    next.rigs.put(std::move(rig));
    session_.edit(std::move(next), what, QString("ears drag %1").arg(gestures_));
}

} // namespace stone
