#include "app/blind/blind_cover.h"

#include "app/theme/theme.h"

#include <QPainter>

#include <cmath>

namespace stone
{

BlindCover::BlindCover(BlindWalk& walk, Playback& playback, QWidget* parent) : QWidget(parent), walk_(walk), playback_(playback)
{
    setObjectName("blindCover");
    setAccessibleName(tr("Blind walk: a compass"));
    connect(&playback_, &Playback::ticked, this, [this] {
        if (isVisible()) {
            update();
        }
    });
}

void BlindCover::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme::paper);
    const double radius = std::min(width(), height()) * 0.28;
    const QPointF centre(width() / 2.0, height() / 2.0 - 16.0);
    painter.save();
    painter.translate(centre);
    // The rose turns under a fixed mark: ahead is up.
    const double heading = playback_.feet().heading_deg;
    painter.setPen(QPen(theme::ink, 1.6));
    painter.drawEllipse(QPointF(0, 0), radius, radius);
    for (int degree = 0; degree < 360; degree += 10) {
        const double turn = radians(degree - heading);
        const QPointF way(std::sin(turn), -std::cos(turn));
        painter.setPen(QPen(degree % 90 == 0 ? theme::ink : theme::soft, degree % 90 == 0 ? 2.0 : 1.0));
        painter.drawLine(way * radius, way * (radius - (degree % 90 == 0 ? 16.0 : degree % 30 == 0 ? 10.0 : 5.0)));
    }
    painter.setFont(theme::text(15, QFont::Bold));
    painter.setPen(theme::ink);
    const std::pair<int, QString> names[] = {{0, tr("N")}, {90, tr("E")}, {180, tr("S")}, {270, tr("W")}};
    for (const auto& [degree, name] : names) {
        const double turn = radians(degree - heading);
        const QPointF at = QPointF(std::sin(turn), -std::cos(turn)) * (radius - 34.0);
        painter.drawText(QRectF(at - QPointF(20, 20), QSizeF(40, 40)), Qt::AlignCenter, name);
    }
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::cinnabar);
    painter.drawPolygon(QPolygonF{{QPointF(0, -radius - 4), QPointF(-9, -radius - 22), QPointF(9, -radius - 22)}});
    painter.setFont(theme::number(13));
    painter.setPen(theme::soft);
    painter.drawText(QRectF(-60, -16, 120, 32), Qt::AlignCenter,
                     QStringLiteral("%1°").arg(std::lround(std::fmod(heading + 360.0, 360.0)) % 360));
    painter.restore();
    painter.setFont(theme::text(11));
    painter.setPen(theme::ink);
    painter.drawText(QRectF(0, centre.y() + radius + 26.0, width(), 24), Qt::AlignCenter,
                     tr("Blind walk: find your way by ear. F8 shows where you went."));
    painter.setFont(theme::text(9.5));
    painter.setPen(theme::soft);
    painter.drawText(QRectF(0, centre.y() + radius + 50.0, width(), 20), Qt::AlignCenter,
                     playback_.listening() ? walk_.words() : tr("Nothing is playing: Space begins to listen."));
}

} // namespace stone
