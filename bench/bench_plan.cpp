// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"
#include "app/theme/theme.h"

#include <benchmark/benchmark.h>

#include <QApplication>

#include <memory>

/// What painting the Plan with the demo on it costs: all of it, and what moves alone.
namespace
{

using namespace stone;

struct Shown {
    Shown()
    {
        session.open(DEMO);
        while (session.loadingLevel()) {
            QApplication::processEvents();
        }
        QApplication::processEvents();
        plan.resize(700, 720);
        plan.fitAll();
        session.selectOnly({"departure-board"});
    }
    Session session{48'000};
    Playback playback{session, [](const QString&, int rate, unsigned) { return openClock(rate, 256); }};
    PlanView plan{session, playback};
};

std::unique_ptr<Shown> made;

Shown& shown()
{
    if (!made) {
        made = std::make_unique<Shown>();
    }
    return *made;
}

void paintWhatMoves(benchmark::State& state)
{
    Shown& s = shown();
    QImage image(700, 720, QImage::Format_ARGB32_Premultiplied);
    for (auto _ : state) {
        s.plan.render(&image);
    }
}

void paintEverything(benchmark::State& state)
{
    Shown& s = shown();
    QImage image(700, 720, QImage::Format_ARGB32_Premultiplied);
    bool in = false;
    for (auto _ : state) {
        s.plan.zoomBy(in ? 1.01 : 1.0 / 1.01); // another camera: the sheet is drawn anew
        in = !in;
        s.plan.render(&image);
    }
}

void dragTheCut(benchmark::State& state)
{
    Shown& s = shown();
    double height = 1.0;
    for (auto _ : state) {
        s.plan.setCut(height = height > 3.0 ? 1.0 : height + 0.01);
    }
}

BENCHMARK(paintWhatMoves)->Unit(benchmark::kMillisecond);
BENCHMARK(paintEverything)->Unit(benchmark::kMillisecond);
BENCHMARK(dragTheCut)->Unit(benchmark::kMillisecond);

} // namespace

/// The application ends before what Qt keeps for it does: it is no static.
int main(int argc, char** argv)
{
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    made.reset();
}
