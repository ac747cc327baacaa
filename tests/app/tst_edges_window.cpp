// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"
#include "level/floor_edges.h"
#include "project/edit.h"
#include "support/boxes.h"
#include "support/one_of_many.h"
#include "world/world.h"

#include <QAction>
#include <QLabel>
#include <QLineEdit>
#include <QTabBar>

namespace tst_edges_window
{

using namespace stone;

namespace
{

/// A platform that ends in the east, at x = 10, with a drop; kerb and pond north of it.
std::string platformObj()
{
    return fixture::boxObj("stone", {-10, -10, -1}, {10, 10, 0}) + fixture::boxObj("stone", {-10, 4, 0}, {0, 10, 0.12}) +
           fixture::boxObj("pond", {0, 4, -1}, {10, 10, 0.001});
}

const std::string yard = R"({
  "name": "Edge yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav", "loop": false}],
  "levels": [{"id": "yard", "geometry": {"file": "platform.obj", "up": "z"}, "character": {"at": [8, 0, 0], "heading_deg": 90},
   "emitters": [{"id": "beat", "name": "Beat", "kind": "pulse", "sound": "tone", "at": [0, 0, 0]}]}]
})";

struct Yard : WindowFixture {
    Yard() : WindowFixture(yard)
    {
        fixture::writeText(folder.filePath("platform.obj").toStdString(), platformObj());
        start();
        waitForEdges();
    }

    void waitForEdges()
    {
        constexpr int soon_ms = 20'000;
        if (!QTest::qWaitFor([this] { return session->floorEdges() != nullptr; }, soon_ms)) {
            qFatal("no edges were found");
        }
    }

    double metresOf(EdgeKind kind) const
    {
        double metres = 0.0;
        for (const FloorEdge& edge : session->floorEdges()->all()) {
            metres += edge.kind == kind ? edge.length_m() : 0.0;
        }
        return metres;
    }

    const PulseState* pulse() const
    {
        const WorldState* now = playback->world();
        const auto found = now != nullptr ? now->pulses.find(0) : std::map<std::uint32_t, PulseState>::const_iterator{};
        return now != nullptr && found != now->pulses.end() ? &found->second : nullptr;
    }
};

} // namespace

/// Edges of the floor and what tells of them, in the whole window.
class TestEdgesWindow : public QObject
{
    Q_OBJECT

private slots:
    /// What counts is typed on the level's page; edges follow, each edit is undone.
    void whatCountsIsTyped()
    {
        Yard f;
        QVERIFY(std::abs(f.metresOf(EdgeKind::kerb) - 16.0) < 0.1);
        QCOMPARE(f.metresOf(EdgeKind::water), 0.0);
        f.menu("Set up this level");
        QVERIFY(f.find<QLabel>("edgeFacts")->text().contains("16 m of kerbs"));
        auto* water = f.find<QLineEdit>("edgeWater");
        water->setFocus();
        water->selectAll();
        QTest::keyClicks(water, "water, Pond");
        QTest::keyClick(water, Qt::Key_Return);
        QCOMPARE(f.level().edges.water, (std::vector<std::string>{"water", "Pond"}));
        f.waitForEdges();
        QVERIFY(std::abs(f.metresOf(EdgeKind::water) - 16.0) < 0.2);
        f.type("edgeStep", "0.1");
        f.waitForEdges();
        QCOMPARE(f.metresOf(EdgeKind::kerb), 0.0);
        f.session->undo();
        f.session->undo();
        f.waitForEdges();
        QVERIFY(std::abs(f.metresOf(EdgeKind::kerb) - 16.0) < 0.1);
        // A kerb is lower than a step, whatever is typed.
        f.type("edgeKerb", "0.9");
        QVERIFY(f.level().edges.kerb_m < f.level().edges.step_m);
    }

    /// They are drawn by key, and the sheet is only painted anew for it.
    void drawnByKey()
    {
        Yard f;
        const QImage before = f.plan().grab().toImage();
        QTest::keyClick(f.window.get(), Qt::Key_9, Qt::AltModifier | Qt::ShiftModifier);
        auto* action = f.window->findChild<QAction*>("show/edges");
        QVERIFY(action != nullptr && action->isChecked());
        const QImage with = f.plan().grab().toImage();
        QVERIFY(with != before);
        // Along the east border of the platform.
        const QPointF at = f.plan().camera().toScreen(Vec2{10.0, -5.0}) * f.plan().devicePixelRatioF();
        int drawn = 0;
        for (int dx = -3; dx <= 3; ++dx) {
            drawn += with.pixelColor(at.toPoint() + QPoint(dx, 0)) != before.pixelColor(at.toPoint() + QPoint(dx, 0)) ? 1 : 0;
        }
        QVERIFY(drawn > 0);
        action->trigger();
        QCOMPARE(f.plan().grab().toImage(), before);
    }

    /// A pulse on the bench: what it tells of is chosen, and heard as one listens.
    void thePulseIsSetAndHeard()
    {
        Yard f;
        f.session->selectOnly({"beat"});
        QVERIFY(f.find<QTabBar>("benchTabs")->tabText(0) == "Pulse");
        f.menu("Listen or stop");
        const auto energy = [&](double seconds) {
            const auto sound = f.pass(seconds);
            double sum = 0.0;
            for (const float x : sound) {
                sum += double{x} * double{x};
            }
            return sum;
        };
        QVERIFY(energy(1.0) > 1e-6);
        QVERIFY(f.pulse() != nullptr && f.pulse()->hazard && f.pulse()->hazard->kind == EdgeKind::drop);
        QVERIFY2(f.find<QLabel>("pulseNow")->text().contains("drop 2.0 m ahead"),
                 qPrintable(f.find<QLabel>("pulseNow")->text()));
        const std::uint64_t beats = f.pulse()->beats;
        f.type("pulseWithin", "1.5");
        energy(1.0);
        QVERIFY(!f.pulse()->hazard);
        QVERIFY(f.pulse()->beats <= beats + 1);
        // What it says follows ten times a second.
        QVERIFY(QTest::qWaitFor([&] {
            f.playback->tick(0.02);
            return f.find<QLabel>("pulseNow")->text().contains("nothing is near");
        }));
        f.type("pulseWithin", "6");
        QTest::mouseClick(f.find<QCheckBox>("pulseDrops"), Qt::LeftButton, Qt::NoModifier, QPoint(8, 8));
        QVERIFY(!f.emitter("beat").pulsing.drops);
        QVERIFY(!f.find<QComboBox>("pulseDropSound")->isEnabled());
        f.choose("pulseLooks", "all round");
        QCOMPARE(f.emitter("beat").pulsing.looks, Pulsing::Looks::all);
        QVERIFY(!f.find<QWidget>("pulseAside")->isEnabled());
        f.type("pulseNearest", "0.2");
        QCOMPARE(f.emitter("beat").pulsing.nearest_s, 0.2);
    }

    /// From cell to cell as it faces: a press is a cell or a quarter, held it goes on, and the ear gets it as a movement.
    void fromCellToCell()
    {
        WindowFixture f(oneTone);
        f.menu("Set up this level");
        f.choose("characterMoves", "cell by cell as it faces");
        f.type("characterCell", "2");
        QCOMPARE(f.level().character.moves, Character::Moves::cells);
        f.plan().setFocus();
        const auto ticks = [&](double seconds) {
            Vec3 before = f.playback->feet().at;
            for (double t = 0.0; t < seconds; t += 0.02) {
                f.playback->tick(0.02);
                QVERIFY(glm::length(f.playback->feet().at - before) < 0.1);
                before = f.playback->feet().at;
            }
        };
        const auto isAt = [&](double x, double y, double heading_deg) {
            const Pose& feet = f.playback->feet();
            return glm::length(Vec2(feet.at) - Vec2{x, y}) < 1e-6 &&
                   std::abs(wrapDegrees(feet.heading_deg - heading_deg)) < 1e-6;
        };
        QTest::keyClick(&f.plan(), Qt::Key_W);
        ticks(2.0);
        QVERIFY(isAt(0, 2, 0));
        QTest::keyClick(&f.plan(), Qt::Key_E);
        ticks(1.0);
        QVERIFY(isAt(0, 2, 90));
        QTest::keyClick(&f.plan(), Qt::Key_A);
        ticks(2.0);
        QVERIFY(isAt(0, 4, 90));
        QTest::keyClick(&f.plan(), Qt::Key_E, Qt::ShiftModifier);
        ticks(1.0);
        QVERIFY(isAt(0, 4, 270));
        // Held it goes on, and ends in the middle of a cell.
        QTest::keyPress(&f.plan(), Qt::Key_S);
        ticks(3.5);
        QTest::keyRelease(&f.plan(), Qt::Key_S);
        ticks(2.0);
        QVERIFY(isAt(6, 4, 270));
    }

    /// A key for each side of the sheet: it faces there and goes; where there is no floor it bumps and stays.
    void aKeyForEachSide()
    {
        Yard f;
        f.session->edit(withLevel(f.session->project(), {"yard"},
                                  [](Level& level) {
                                      level.character.moves = Character::Moves::directions;
                                      level.character.cell_m = 1.5;
                                  }),
                        "directions");
        f.playback->placeFeet({{8, 0, 0}, 0, 0, 0});
        f.plan().setFocus();
        const auto press = [&](Qt::Key key) {
            QTest::keyClick(&f.plan(), key);
            for (int i = 0; i < 100; ++i) {
                f.playback->tick(0.02);
            }
            const Pose& feet = f.playback->feet();
            return QString("%1 %2 %3").arg(feet.at.x, 0, 'f', 2).arg(feet.at.y, 0, 'f', 2).arg(feet.heading_deg, 0, 'f', 0);
        };
        QCOMPARE(press(Qt::Key_D), QString("9.50 0.00 90"));
        const int bumps = f.playback->walker().bumps();
        QCOMPARE(press(Qt::Key_D), QString("9.50 0.00 90")); // the platform ends
        QCOMPARE(f.playback->walker().bumps(), bumps + 1);
        QCOMPARE(press(Qt::Key_S), QString("9.50 -1.50 -180"));
        QCOMPARE(press(Qt::Key_Left), QString("8.00 -1.50 -90"));
        QCOMPARE(press(Qt::Key_W), QString("8.00 0.00 0"));
    }

    /// A new one comes from the menu; beat and pitch are lanes that only a pulse is offered.
    void aNewOneAndItsLanes()
    {
        Yard f;
        f.menu("Pulse at edges");
        const Emitter* made = f.session->primary();
        QVERIFY(made != nullptr && made->kind == EmitterKind::pulse);
        auto* tabs = f.find<QTabBar>("benchTabs");
        for (int i = 0; i < tabs->count(); ++i) {
            if (tabs->tabText(i) == "Falloff") {
                tabs->setCurrentIndex(i);
            }
        }
        QVERIFY(f.find<QLabel>("addLane")->text().contains("beat"));
        f.session->editSelected("a point", {}, [](Emitter& emitter) { emitter.kind = EmitterKind::point; });
        QVERIFY(!f.find<QLabel>("addLane")->text().contains("beat"));
    }
};

} // namespace tst_edges_window

STONE_TEST(tst_edges_window, TestEdgesWindow)
#include "tst_edges_window.moc"
