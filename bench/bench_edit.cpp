// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include "project/edit.h"
#include "project/write.h"

#include <benchmark/benchmark.h>

#include <QApplication>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <fstream>
#include <memory>
#include <random>
#include <set>

/// What an edit costs the window's thread in a large project, part by part, and what 5 000 emitters cost the window.
namespace
{

using namespace stone;

/// A hilly square of 200 000 triangles, 320 m wide.
void writeLevel(const std::string& path)
{
    constexpr int side = 317;
    std::ofstream out(path);
    for (int y = 0; y < side; ++y) {
        for (int x = 0; x < side; ++x) {
            out << "v " << x << ' ' << 0.2 * std::sin(0.05 * x) * std::cos(0.07 * y) - 0.3 << ' ' << -y << '\n';
        }
    }
    for (int y = 0; y + 1 < side; ++y) {
        for (int x = 0; x + 1 < side; ++x) {
            const int a = y * side + x + 1;
            out << "f " << a << ' ' << a + 1 << ' ' << a + side << "\nf " << a + 1 << ' ' << a + side + 1 << ' ' << a + side
                << '\n';
        }
    }
}

Project town(std::size_t emitters, int rooms, bool geometry)
{
    Project project = blankProject();
    for (int i = 0; i < 20; ++i) {
        Sound loop;
        loop.id = {"loop" + std::to_string(i)};
        loop.name = "Loop " + std::to_string(i);
        loop.files = {{.file = "a.wav"}};
        project.sounds.put(loop);
    }
    const LevelId level = project.levels[0]->id;
    return withLevel(std::move(project), level, [&](Level& town) {
        if (geometry) {
            town.geometry = GeometryFile{.file = "town.obj"};
        }
        for (int i = 0; i < rooms; ++i) {
            Room room;
            room.id = {"r" + std::to_string(i)};
            room.name = "House " + std::to_string(i);
            room.at = {20.0 + 16.0 * (i % 18), 20.0 + 16.0 * (i / 18), 0.0};
            room.shape = Box{{8, 8, 3}};
            town.rooms.append(room);
            Opening door;
            door.id = {"o" + std::to_string(i)};
            door.name = "Door " + std::to_string(i);
            door.from = {room.at.x + 4.0, room.at.y - 0.5};
            door.to = {room.at.x + 4.0, room.at.y + 0.5};
            town.openings.append(door);
        }
        std::mt19937 chance(3);
        std::uniform_real_distribution<double> even(0, 1);
        for (std::size_t i = 0; i < emitters; ++i) {
            Emitter emitter;
            emitter.id = {"e" + std::to_string(i)};
            emitter.name = "Lamp " + std::to_string(i);
            emitter.sound = {"loop" + std::to_string(i % 20)};
            emitter.at = {10.0 + 300.0 * even(chance), 10.0 + 300.0 * even(chance), 1.5};
            town.emitters.append(emitter);
        }
    });
}

/// The whole window over such a project.
struct Opened {
    Opened(std::size_t emitters, int rooms, bool geometry)
    {
        const std::string to = folder.path().toStdString();
        if (geometry) {
            writeLevel(to + "/town.obj");
        }
        writeProjectFile(town(emitters, rooms, geometry), to + "/project.json");
        session = std::make_unique<Session>(48'000, state.path().toStdString());
        playback =
            std::make_unique<Playback>(*session, [](const QString&, int rate, unsigned) { return openClock(rate, 256); });
        window = std::make_unique<MainWindow>(*session, *playback);
        window->resize(1280, 800);
        window->show();
        window->openProject(QString::fromStdString(to));
        settle();
    }

    void settle() const
    {
        do {
            QTest::qWait(20);
        } while (session->loadingLevel() || session->bank().pending() > 0);
        QTest::qWait(500); // findings come a moment later
    }

    QTemporaryDir folder;
    QTemporaryDir state;
    std::unique_ptr<Session> session;
    std::unique_ptr<Playback> playback;
    std::unique_ptr<MainWindow> window;
};

std::unique_ptr<Opened> large;
std::unique_ptr<Opened> crowd;

Opened& theLarge()
{
    if (!large) {
        large = std::make_unique<Opened>(2'000, 100, true);
    }
    return *large;
}

Opened& theCrowd()
{
    if (!crowd) {
        crowd = std::make_unique<Opened>(5'000, 0, false);
    }
    return *crowd;
}

/// An emitter is moved, as a drag does: until the window's thread is free again, without what is painted after it.
void moveAnEmitter(benchmark::State& state)
{
    Opened& o = theLarge();
    double x = 50.0;
    for (auto _ : state) {
        x = x > 60.0 ? 50.0 : x + 0.01;
        o.session->edit(withEmitter(o.session->project(), o.session->level().id, {"e7"}, [&](Emitter& e) { e.at.x = x; }),
                        "Move", "drag");
        state.PauseTiming();
        QTest::qWait(1);
        state.ResumeTiming();
    }
}
BENCHMARK(moveAnEmitter)->Unit(benchmark::kMillisecond)->Iterations(400);

/// Of that: making the next document.
void makeTheDocument(benchmark::State& state)
{
    Opened& o = theLarge();
    for (auto _ : state) {
        benchmark::DoNotOptimize(
            withEmitter(o.session->project(), o.session->level().id, {"e7"}, [&](Emitter& e) { e.at.x += 0.01; }));
    }
}
BENCHMARK(makeTheDocument)->Unit(benchmark::kMillisecond);

/// Of that: the scene that is heard, from nothing and from the one before.
void makeTheScene(benchmark::State& state)
{
    Opened& o = theLarge();
    const auto before = makeScene(
        o.session->document(), o.session->level().id, o.session->bank(),
        [&](const std::string& file) { return o.session->resolve(file); }, Loading::later, o.session->loadedLevel().ground);
    for (auto _ : state) {
        benchmark::DoNotOptimize(makeScene(
            o.session->document(), o.session->level().id, o.session->bank(),
            [&](const std::string& file) { return o.session->resolve(file); }, Loading::later, o.session->loadedLevel().ground,
            {}, {}, state.range(0) != 0 ? before.get() : nullptr));
    }
}
BENCHMARK(makeTheScene)->ArgName("before")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

void openACrowd(benchmark::State& state)
{
    for (auto _ : state) {
        state.PauseTiming();
        Opened& o = theCrowd();
        const QString path = o.folder.path();
        state.ResumeTiming();
        o.window->openProject(path);
        QApplication::processEvents();
    }
}
BENCHMARK(openACrowd)->Unit(benchmark::kMillisecond)->Iterations(3);

/// A tick of the window while one walks through 5 000 emitters, with the picture that follows.
void walkInACrowd(benchmark::State& state)
{
    Opened& o = theCrowd();
    double x = 100.0;
    for (auto _ : state) {
        x = x > 150.0 ? 100.0 : x + 0.05;
        o.playback->placeFeet({{x, 150.0, 0.0}, 0.0});
        o.playback->tick(1.0 / 30.0);
        QApplication::processEvents();
    }
}
BENCHMARK(walkInACrowd)->Unit(benchmark::kMillisecond);

void selectAllAndDelete(benchmark::State& state)
{
    Opened& o = theCrowd();
    for (auto _ : state) {
        std::set<EmitterId> all;
        for (const auto& emitter : o.session->level().emitters) {
            all.insert(emitter->id);
        }
        o.session->select(all, *all.begin());
        o.session->deleteSelected();
        QApplication::processEvents();
        state.PauseTiming();
        o.session->undo();
        QApplication::processEvents();
        state.ResumeTiming();
    }
}
BENCHMARK(selectAllAndDelete)->Unit(benchmark::kMillisecond)->Iterations(3);

} // namespace

int main(int argc, char** argv)
{
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    theme::apply(app);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    large.reset();
    crowd.reset();
}
