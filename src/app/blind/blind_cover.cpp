// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/blind/blind_cover.h"

#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QSettings>

#include <cmath>

namespace stone
{

namespace
{

constexpr int eighth_deg = 45;
/// One has turned when one has stood so for a while: what is passed in turning is not said.
constexpr int settled_ms = 400;
constexpr int sayTimeEach_s = 15;

} // namespace

BlindCover::BlindCover(BlindWalk& walk, RunClock& clock, Playback& playback, QWidget* parent)
    : QWidget(parent), walk_(walk), clock_(clock), playback_(playback),
      compass_(option("blindCompass", tr("compass"), tr("Shown, and said where it speaks"), true)),
      time_(option("blindClock", tr("clock"), tr("Of a run: shown, and said where it speaks"), true)),
      speaks_(option("blindSpeaks", tr("speaks"),
                     Announcer::available() ? tr("Says which way one has turned to, the time and what happens on a run")
                                            : tr("There is no voice here: install the program espeak-ng"),
                     false))
{
    setObjectName("blindCover");
    setAccessibleName(tr("Blind walk: a compass"));
    auto* row = new QHBoxLayout(this);
    row->addStretch();
    for (QCheckBox* box : {compass_, time_, speaks_}) {
        row->addWidget(box, 0, Qt::AlignBottom);
    }
    row->addStretch();
    connect(&playback_, &Playback::ticked, this, [this] {
        if (isVisible()) {
            update();
            speak();
        }
    });
    connect(&clock_, &RunClock::news, this, [this](const QString& words) {
        if (isVisible() && speaks_->isChecked()) {
            announcer_.say(words);
        }
    });
    connect(&clock_, &RunClock::changed, this, [this] { saidTime_ = 0; });
}

QCheckBox* BlindCover::option(const char* name, const QString& label, const QString& help, bool usually)
{
    auto* box = new QCheckBox(label);
    box->setObjectName(name);
    box->setToolTip(help);
    box->setFocusPolicy(Qt::TabFocus); // the arrow keys walk
    box->setChecked(QSettings().value(name, usually).toBool());
    connect(box, &QCheckBox::toggled, this, [this, name](bool on) {
        QSettings().setValue(name, on);
        update();
    });
    return box;
}

void BlindCover::speak()
{
    if (!speaks_->isChecked()) {
        return;
    }
    static const QString ways[] = {tr("north"), tr("north east"), tr("east"), tr("south east"),
                                   tr("south"), tr("south west"), tr("west"), tr("north west")};
    const int way = static_cast<int>(std::lround(playback_.feet().heading_deg / eighth_deg) + 16) % 8;
    if (way != turnedTo_) {
        turnedTo_ = way;
        sinceTurned_.start();
    } else if (way != saidWay_ && sinceTurned_.elapsed() >= settled_ms && compass_->isChecked()) {
        saidWay_ = way;
        announcer_.say(ways[way]);
    }
    const int times = static_cast<int>(clock_.seconds() / sayTimeEach_s);
    if (clock_.on() && times > saidTime_ && time_->isChecked()) {
        saidTime_ = times;
        announcer_.say(tr("%1 seconds").arg(times * sayTimeEach_s));
    }
}

void BlindCover::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme::paper);
    const double radius = std::min(width(), height()) * 0.28;
    const QPointF centre(width() / 2.0, height() / 2.0 - 16.0);
    if (compass_->isChecked()) {
        paintCompass(painter, centre, radius);
    }
    painter.setPen(theme::ink);
    if (clock_.shown() && time_->isChecked()) {
        painter.setFont(theme::number(20, QFont::Bold));
        painter.drawText(QRectF(0, 12, width(), 36), Qt::AlignCenter, clock_.words());
    }
    painter.setFont(theme::text(11));
    painter.drawText(QRectF(0, centre.y() + radius + 26.0, width(), 24), Qt::AlignCenter,
                     tr("Blind walk: find your way by ear. F8 shows where you went."));
    painter.setFont(theme::text(9.5));
    painter.setPen(theme::soft);
    painter.drawText(QRectF(0, centre.y() + radius + 50.0, width(), 20), Qt::AlignCenter,
                     !playback_.listening() ? tr("Nothing is playing: Space begins to listen.")
                     : clock_.shown()       ? QString()
                                            : walk_.words());
}

void BlindCover::paintCompass(QPainter& painter, const QPointF& centre, double radius) const
{
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
}

} // namespace stone
