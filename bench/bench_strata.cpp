// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/playback.h"
#include "app/session/take_desk.h"
#include "app/strata/strata_view.h"
#include "app/theme/theme.h"
#include "takes/moment_codec.h"
#include "takes/take_writer.h"

#include <benchmark/benchmark.h>

#include <QApplication>
#include <QPainter>
#include <QTemporaryDir>

#include <cmath>
#include <map>
#include <memory>

/// What drawing a take over its time costs: 200 emitters, ten minutes and eight hours. The floor is painting as many polygons
/// of as many corners as the layers that are drawn.
namespace
{

using namespace stone;

constexpr int emitters = 200;
constexpr int width = 700;
constexpr int height = 300;

/// Each emitter is loud at another time; only the overview has all of them, as the graph asks for no more.
void makeTake(const std::filesystem::path& file, double seconds)
{
    TakeWriter writer(file, TakeInfo{});
    for (int i = 0; i < emitters; ++i) {
        const std::string name = "emitter " + std::to_string(i);
        writer.addEmitter({{name}, name, static_cast<EmitterKind>(i % 6), {}, {}});
    }
    constexpr int chunk = 120;
    std::vector<TakeBin> bins;
    MomentEncoder moments;
    for (int i = 0; i * takeBin_s < seconds; ++i) {
        TakeBin bin;
        bin.t_s = i * takeBin_s;
        bin.voices = emitters;
        bin.momentary_lufs = -30.0F;
        for (std::uint32_t e = 0; e < emitters; ++e) {
            const auto level = static_cast<float>(
                -40.0 + 20.0 * std::sin(0.01 * i * (1.0 + 0.1 * static_cast<double>(e)) + static_cast<double>(e)));
            bin.emitters.push_back({e, level, level});
        }
        bins.push_back(bin);
        TakenMoment moment;
        moment.t_s = bin.t_s;
        moments.add(moment);
        if (bins.size() == chunk || (i + 1) * takeBin_s >= seconds) {
            writer.addBins(bins.front().t_s, bins);
            writer.addMoments(bins.front().t_s, bin.t_s, moments.take());
            bins.clear();
        }
    }
    writer.finish(seconds, -30.0, -6.0);
}

struct Shown {
    explicit Shown(double seconds)
    {
        const std::filesystem::path file = folder.filePath("t.take").toStdString();
        makeTake(file, seconds);
        view.resize(width, height);
        playback.takes().open(file);
        while (view.reading()) {
            QApplication::processEvents();
        }
        QApplication::processEvents();
    }
    QTemporaryDir folder;
    Session session{48'000};
    Playback playback{session, [](const QString&, int rate, unsigned) { return openClock(rate, 256); }};
    StrataView view{session, playback.takes()};
};

std::map<double, std::unique_ptr<Shown>> made;

Shown& shown(double seconds)
{
    auto& one = made[seconds];
    if (!one) {
        one = std::make_unique<Shown>(seconds);
    }
    return *one;
}

void floorPolygons(benchmark::State& state)
{
    QImage image(width, height, QImage::Format_ARGB32_Premultiplied);
    std::vector<QPolygonF> polygons;
    for (int i = 40; i > 0; --i) {
        QPolygonF polygon;
        polygon << QPointF(72, height - 130);
        for (int x = 72; x < width - 8; ++x) {
            polygon << QPointF(x, height - 130 - i * 3.5 - 2.0 * std::sin(0.05 * x + i));
        }
        polygon << QPointF(width - 8, height - 130);
        polygons.push_back(polygon);
    }
    for (auto _ : state) {
        QPainter painter(&image);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(theme::paper, 1.0));
        for (const QPolygonF& polygon : polygons) {
            painter.setBrush(theme::verdigris);
            painter.drawPolygon(polygon);
        }
    }
}

/// Opens it: all that the graph is drawn from.
void readLayers(benchmark::State& state)
{
    Shown& s = shown(static_cast<double>(state.range(0)));
    for (auto _ : state) {
        const Take take(s.playback.takes().take()->path());
        benchmark::DoNotOptimize(TakeLayers(take, TakeLayers::By::emitters));
    }
}

/// All of it anew, as while one zooms or goes along.
void draw(benchmark::State& state)
{
    Shown& s = shown(static_cast<double>(state.range(0)));
    QImage image(width, height, QImage::Format_ARGB32_Premultiplied);
    const double middle_s = s.view.data().seconds() / 2.0;
    bool in = false;
    for (auto _ : state) {
        s.view.zoom(in ? 1.02 : 1.0 / 1.02, middle_s);
        in = !in;
        s.view.render(&image);
    }
}

/// The line alone, as while it plays.
void moveLine(benchmark::State& state)
{
    Shown& s = shown(static_cast<double>(state.range(0)));
    QImage image(width, height, QImage::Format_ARGB32_Premultiplied);
    double t_s = 0.0;
    for (auto _ : state) {
        s.playback.takes().setCursor(t_s = t_s > 500.0 ? 0.0 : t_s + 0.05);
        s.view.render(&image);
    }
}

constexpr int minutes_s = 600;
constexpr int hours_s = 8 * 3'600;
BENCHMARK(floorPolygons)->Unit(benchmark::kMillisecond);
BENCHMARK(readLayers)->Arg(minutes_s)->Arg(hours_s)->Unit(benchmark::kMillisecond);
BENCHMARK(draw)->Arg(minutes_s)->Arg(hours_s)->Unit(benchmark::kMillisecond);
BENCHMARK(moveLine)->Arg(minutes_s)->Arg(hours_s)->Unit(benchmark::kMillisecond);

} // namespace

int main(int argc, char** argv)
{
    qputenv("QT_QPA_PLATFORM", "offscreen");
    const QApplication app(argc, argv);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    made.clear();
    return 0;
}
