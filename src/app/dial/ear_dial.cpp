// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dial/ear_dial.h"

#include "app/theme/theme.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

#include <algorithm>
#include <cmath>
#include <utility>

namespace stone
{

namespace
{

/// From the middle (quietest) to the rim (full scale).
constexpr double quietest_db = -54.0;
/// A point's petal is half as long nine degrees aside.
constexpr double petalSharpness = 56.0;
/// Of an outline: close together where a petal may have its point, further apart where it is round.
constexpr double closePoints_deg = 2.0;
constexpr double farPoints_deg = 9.0;
constexpr double pointWithin_deg = 54.0;
/// What moves is drawn anew no more often than this.
constexpr int betweenPictures_ms = 90;

double lengthOf(double level_db)
{
    return std::clamp((level_db - quietest_db) / -quietest_db, 0.08, 1.0);
}

} // namespace

EarDial::EarDial(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback)
{
    setFixedSize(sizeHint());
    setAccessibleName(tr("Ear dial: what comes from where"));
    setMouseTracking(true);
    later_.setSingleShot(true);
    later_.setInterval(betweenPictures_ms);
    connect(&later_, &QTimer::timeout, this, &EarDial::look);
    connect(&playback_, &Playback::moved, this, [this] {
        if (!later_.isActive()) {
            look();
        }
    });
    // What is heard of another document is known when the picture is asked for, and not before.
    const auto anew = [this] {
        stale_ = true;
        update();
    };
    connect(&session_, &Session::documentChanged, this, anew);
    connect(&session_, &Session::selectionChanged, this, anew);
}

std::vector<const Heard*> EarDial::heardNow() const
{
    std::vector<const Heard*> heard;
    for (const Heard& one : playback_.heardInReach()) {
        if (one.audible && one.level_db >= quietest_db) {
            heard.push_back(&one);
        }
    }
    // The loudest is drawn first, so that short petals lie on top of long ones.
    std::stable_sort(heard.begin(), heard.end(), [](const Heard* a, const Heard* b) { return a->level_db > b->level_db; });
    return heard;
}

void EarDial::drawPetals(QPainter& painter) const
{
    painter.translate(QPointF(width() / 2.0, height() / 2.0));
    for (const Petal& petal : petals_) {
        const QPolygonF outline = outlineOf(petal);
        QColor fill = theme::colourOf(petal.kind);
        fill.setAlpha(petal.selected ? 220 : petal.kind == EmitterKind::bed ? 45 : 110);
        // Its line covers the steps of the fill's border. A smooth fill of this size Qt hands to other threads in pieces, and
        // to wake those takes longer than to fill it.
        painter.setRenderHint(QPainter::Antialiasing, false);
        painter.setPen(Qt::NoPen);
        painter.setBrush(fill);
        painter.drawPolygon(outline);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(petal.selected ? QPen(theme::ink, 1.3) : QPen(theme::colourOf(petal.kind), 0.8));
        painter.setBrush(Qt::NoBrush);
        painter.drawPolygon(outline);
    }
}

QPolygonF EarDial::outlineOf(const Petal& petal) const
{
    const double point = petal.point / Petal::partsOfPoint;
    const double length = innerRadius() * lengthOf(petal.level / Petal::partsOfDecibel);
    QPolygonF outline;
    const auto step_deg = [](double off_deg) {
        return off_deg >= -pointWithin_deg && off_deg < pointWithin_deg ? closePoints_deg : farPoints_deg;
    };
    for (double off_deg = -180.0; off_deg < 180.0; off_deg += step_deg(off_deg)) {
        const double off = radians(off_deg);
        const double ahead = std::pow(std::max(std::cos(off), 0.0), petalSharpness);
        const double r = length * (1.0 - point + point * ahead);
        if (r < 0.25 && !outline.isEmpty() && outline.back().isNull()) {
            continue; // beside a narrow petal all points are the middle
        }
        if (r < 0.25) {
            outline << QPointF();
            continue;
        }
        const double a = radians(petal.azimuth / Petal::partsOfDegree) + off;
        outline << QPointF(r * std::sin(a), -r * std::cos(a));
    }
    return outline;
}

void EarDial::drawFace(QPainter& painter) const
{
    const double rim = std::min(width(), height()) / 2.0 - 3.0;
    const double radius = rim - 15.0;
    painter.setRenderHint(QPainter::Antialiasing);
    painter.translate(QPointF(width() / 2.0, height() / 2.0));
    painter.setPen(QPen(theme::line, 1.2));
    painter.setBrush(theme::seeThrough(theme::paper, 0.06));
    painter.drawEllipse(QPointF(0, 0), rim, rim);
    painter.setPen(QPen(theme::line, 1.0));
    painter.setBrush(Qt::NoBrush);
    for (const double db : {0.0, -18.0, -36.0}) {
        painter.drawEllipse(QPointF(0, 0), radius * lengthOf(db), radius * lengthOf(db));
    }
    for (int spoke = 0; spoke < 8; ++spoke) {
        const double a = spoke * std::numbers::pi / 4.0;
        painter.drawLine(QPointF(0, 0), QPointF(radius * std::sin(a), radius * std::cos(a)));
    }
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ink);
    painter.drawPolygon(QPolygonF{{QPointF(0, -radius - 12), QPointF(-5, -radius - 3), QPointF(5, -radius - 3)}});
    painter.setFont(theme::text(7));
    painter.setPen(theme::soft);
    painter.drawText(QRectF(-rim + 3, -7, 14, 14), Qt::AlignCenter, tr("L"));
    painter.drawText(QRectF(rim - 17, -7, 14, 14), Qt::AlignCenter, tr("R"));
    painter.drawText(QRectF(-20, radius + 1, 40, 13), Qt::AlignCenter, tr("behind"));
}

EarDial::Petal EarDial::petalOf(const Heard& heard) const
{
    const Emitter& emitter = *playback_.hearing().level().emitters[heard.index];
    const Emitter* primary = session_.primary();
    // Only what lies in the plane has a side: what comes from straight above is as wide as what comes from all round.
    const double point = std::min(std::hypot(heard.direction.x, heard.direction.y), 1.0);
    return {emitter.kind, primary != nullptr && primary->id == emitter.id,
            static_cast<int>(std::lround(heard.level_db * Petal::partsOfDecibel)),
            static_cast<int>(std::lround(heard.bearing.azimuth_deg * Petal::partsOfDegree)),
            static_cast<int>(std::lround(point * Petal::partsOfPoint))};
}

std::vector<EarDial::Petal> EarDial::petalsNow() const
{
    std::vector<Petal> now;
    for (const Heard* heard : heardNow()) {
        now.push_back(petalOf(*heard));
    }
    return now;
}

void EarDial::look()
{
    std::vector<Petal> now = petalsNow();
    if (now != petals_) {
        petals_ = std::move(now);
        picture_ = QPixmap();
        later_.start();
        update();
    }
}

void EarDial::paintEvent(QPaintEvent*)
{
    const double ratio = devicePixelRatioF();
    const auto blank = [&] {
        QPixmap pixmap(size() * ratio);
        pixmap.setDevicePixelRatio(ratio);
        pixmap.fill(Qt::transparent);
        return pixmap;
    };
    if (face_.isNull() || face_.devicePixelRatio() != ratio) {
        face_ = blank();
        picture_ = QPixmap();
        QPainter onFace(&face_);
        drawFace(onFace);
    }
    if (std::exchange(stale_, false)) {
        petals_ = petalsNow();
        picture_ = QPixmap();
    }
    if (picture_.isNull()) {
        picture_ = face_;
        QPainter onPicture(&picture_);
        drawPetals(onPicture);
    }
    QPainter painter(this);
    painter.drawPixmap(0, 0, picture_);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.translate(QPointF(width() / 2.0, height() / 2.0));
    if (const auto handle = earsHandle()) {
        painter.setPen(QPen(theme::ink, 1, Qt::DotLine));
        painter.drawLine(QPointF(0, 0), *handle);
        painter.setPen(QPen(theme::ink, 1.5));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(*handle - QPointF(5, 5), QSizeF(10, 10)));
    }
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ink);
    painter.drawEllipse(QPointF(0, 0), 3.5, 3.5);
}

double EarDial::innerRadius() const
{
    return std::min(width(), height()) / 2.0 - 18.0;
}

std::optional<QPointF> EarDial::earsHandle() const
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr || emitter->kind != EmitterKind::point || emitter->placement.inWorld >= 1.0) {
        return {};
    }
    const double a = radians(emitter->placement.earsAzimuth_deg);
    const double r = innerRadius() * (1.0 - std::abs(emitter->placement.earsElevation_deg) / 90.0);
    return QPointF(r * std::sin(a), -r * std::cos(a));
}

void EarDial::mousePressEvent(QMouseEvent* event)
{
    const QPointF at = event->position() - QPointF(width() / 2.0, height() / 2.0);
    const auto handle = earsHandle();
    dragging_ = handle && std::hypot(handle->x() - at.x(), handle->y() - at.y()) < 12.0;
    ++gestures_;
    event->setAccepted(dragging_);
}

void EarDial::mouseMoveEvent(QMouseEvent* event)
{
    const Emitter* emitter = session_.subject();
    if (!dragging_ || emitter == nullptr) {
        return;
    }
    const QPointF at = event->position() - QPointF(width() / 2.0, height() / 2.0);
    const double azimuth = std::round(degrees(std::atan2(at.x(), -at.y())));
    const double elevation = std::round(90.0 * (1.0 - std::min(std::hypot(at.x(), at.y()) / innerRadius(), 1.0)));
    session_.editSubject(
        tr("%1 in the ears at %2°, %3° up").arg(QString::fromStdString(emitter->name)).arg(azimuth).arg(elevation),
        QString("dial %1").arg(gestures_), [&](Emitter& e) {
            e.placement.earsAzimuth_deg = azimuth;
            e.placement.earsElevation_deg = elevation;
        });
}

void EarDial::mouseReleaseEvent(QMouseEvent*)
{
    if (std::exchange(dragging_, false)) {
        session_.endGesture();
    }
}

bool EarDial::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const QPointF at = help->pos() - QPointF(width() / 2.0, height() / 2.0);
        QStringList names;
        for (const Heard* heard : heardNow()) {
            if (outlineOf(petalOf(*heard)).containsPoint(at, Qt::OddEvenFill)) {
                names << tr("%1  %2 dB")
                             .arg(QString::fromStdString(playback_.hearing().level().emitters[heard->index]->name),
                                  theme::decibels(heard->level_db));
            }
        }
        QToolTip::showText(help->globalPos(),
                           names.isEmpty() ? tr("Ear dial: ahead is up, longer is louder") : names.join('\n'), this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace stone
