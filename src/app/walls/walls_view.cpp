// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/walls/walls_view.h"

#include "app/theme/labels.h"
#include "dsp/octave_bands.h"

#include <QPainter>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>
#include <map>

namespace stone
{

namespace
{

constexpr int barsHeight = 74;
constexpr double mostShown_db = 60.0;
/// The band of which the words speak: 500 Hz, in the middle of speech.
constexpr std::size_t mostWaysNamed = 3;

QString hertz(double hz)
{
    return hz < 1000.0 ? QString::number(hz, 'f', 0) : QObject::tr("%1k").arg(hz / 1000.0);
}

QString lossText(const Bands& loss)
{
    return QObject::tr("−%1 dB").arg(loss[spokenBand], 0, 'f', 1);
}

} // namespace

/// The loss in each band as bars that hang from 0 dB.
class WallsView::Bars : public QWidget
{
public:
    Bars()
    {
        setFixedHeight(barsHeight);
        setToolTip(tr("What the walls take in each octave band, all rays and ways together"));
    }
    void show(const Bands& loss_db)
    {
        loss_db_ = loss_db;
        update();
    }

protected:
    void paintEvent(QPaintEvent*) override
    {
        QPainter painter(this);
        const double column = static_cast<double>(width()) / static_cast<double>(loss_db_.size());
        const double room = height() - 28.0;
        painter.setFont(theme::number(7.5));
        painter.setPen(QPen(theme::ink, 1));
        painter.drawLine(QPointF(0, 0.5), QPointF(width(), 0.5));
        for (std::size_t band = 0; band < loss_db_.size(); ++band) {
            const double x = column * static_cast<double>(band);
            const double tall = std::min(loss_db_[band], mostShown_db) / mostShown_db * room;
            painter.fillRect(QRectF(x + column * 0.18, 1, column * 0.64, std::max(tall, 1.0)), theme::ochre);
            painter.setPen(theme::ink);
            painter.drawText(QRectF(x, tall + 1, column, 13), Qt::AlignCenter, QString::number(loss_db_[band], 'f', 0));
            painter.setPen(theme::soft);
            painter.drawText(QRectF(x, height() - 13, column, 13), Qt::AlignCenter, hertz(octaveBands_hz[band]));
        }
    }

private:
    Bands loss_db_{};
};

WallsView::WallsView(QWidget* parent) : QWidget(parent), bars_(new Bars), words_(theme::caption({}))
{
    setObjectName("wallsView");
    words_->setObjectName("wallsWords");
    words_->setWordWrap(true);
    words_->setStyleSheet("color: " + theme::ink.name());
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 2, 0, 6);
    box->setSpacing(4);
    box->addWidget(theme::caption(tr("Taken in each octave band, dB")));
    box->addWidget(bars_);
    box->addWidget(words_);
}

void WallsView::showExplained(const HearingModel& model, const std::optional<Explained>& told)
{
    if (!told || told->screened.rays == 0) {
        bars_->show({});
        words_->setText(tr("Nothing is reckoned here: it is out of the walls' reach, or walls do not count for it."));
        return;
    }
    bars_->show(told->screened.loss_db);
    QStringList lines;
    lines << (told->screened.free == told->screened.rays
                  ? tr("All %1 rays are free.").arg(told->screened.rays)
                  : tr("%1 of %2 rays are free.").arg(told->screened.free).arg(told->screened.rays));
    struct Stopper {
        int rays = 0;
        double thickness_m = 0.0;
        Bands loss_db{};
    };
    std::map<std::uint32_t, Stopper> stops;
    for (const RaySeen& ray : told->rays) {
        for (const RaySeen::Wall& wall : ray.walls) {
            Stopper& stop = stops[wall.surface];
            ++stop.rays;
            stop.thickness_m = std::max(stop.thickness_m, wall.thickness_m);
            stop.loss_db = wall.loss_db;
        }
    }
    for (const auto& [surface, stop] : stops) {
        const QString name = QString::fromStdString(model.occluder().surfaces()[surface]);
        const QString material = QString::fromStdString(model.occluder().materialOfSurface(surface).material->name);
        lines << tr("<b>%1</b> (%2) is met %n times, %3 each, up to %4 thick.", nullptr, stop.rays)
                     .arg(name.isEmpty() ? tr("A surface without a name") : name.toHtmlEscaped(), material.toHtmlEscaped(),
                          lossText(stop.loss_db), theme::metres(stop.thickness_m));
    }
    if (const auto leaves = std::count_if(told->rays.begin(), told->rays.end(), [](const RaySeen& ray) { return ray.leaf; })) {
        lines << tr("%1 meet what stands closed in an opening.").arg(leaves);
    }
    std::vector<WaySeen> ways = told->ways;
    std::sort(ways.begin(), ways.end(),
              [](const WaySeen& a, const WaySeen& b) { return a.left[spokenBand] > b.left[spokenBand]; });
    const std::size_t named = std::min(ways.size(), mostWaysNamed);
    for (std::size_t i = 0; i < named; ++i) {
        const WaySeen& way = ways[i];
        if (way.openings) {
            lines << tr("Through %1, %2 longer: %3.")
                         .arg(way.points.size() == 3 ? tr("an opening") : tr("%1 openings").arg(way.points.size() - 2),
                              theme::metres(way.detour_m), lossText(way.loss_db()));
            continue;
        }
        lines << (way.detour_m > 0.0
                      ? tr("A way round, %1 longer: %2.").arg(theme::metres(way.detour_m), lossText(way.loss_db()))
                      : tr("Right behind the edge it bends round: %1.").arg(lossText(way.loss_db())));
    }
    if (ways.size() > named) {
        lines << tr("%n more ways, the loudest of them %1.", nullptr, static_cast<int>(ways.size() - named))
                     .arg(lossText(ways[named].loss_db()));
    }
    if (told->screened.free < told->screened.rays && told->ways.empty()) {
        lines << tr("No way round was found.");
    }
    lines << tr("Numbers in the words are for 500 Hz.");
    words_->setText(lines.join("<br>"));
}

} // namespace stone
