#include "app/window_fixture.h"

#include "app/ambience/pad.h"

#include <QMenu>
#include <QSlider>

using namespace stone;

namespace
{

/// A yard with a bed, a bell that waits for a signal, and something for every kind of bench.
const std::string yard = R"({
  "name": "Test yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 40}]}],
  "signals": [{"id": "ring", "name": "Ring"}],
  "game_values": [{"id": "wind", "name": "Wind", "smoothing_s": 0}],
  "emitters": [
    {"id": "thing", "name": "Thing", "at": [5, 5, 1.5], "sound": "tone", "falloff": "yard"},
    {"id": "bell", "name": "Bell", "at": [0, 3, 1.5], "sound": "tone", "falloff": "yard",
     "starting": {"starts": [{"on": "signal", "signal": "ring"}]},
     "lanes": [{"property": "level", "over": "game_value", "value": "wind", "points": [{"x": 0, "y": 0}, {"x": 1, "y": -12}]}]}
  ],
  "walks": [{"id": "walk", "name": "Walk", "points": [{"t_s": 0, "at": [0, 0, 0]}, {"t_s": 10, "at": [0, 5, 0]}],
             "events": [{"t_s": 4, "signal": "ring"}]}]
})";

} // namespace

class TestAmbienceWindow : public QObject
{
    Q_OBJECT

private:
    static void trigger(WindowFixture& f, const char* menu, const QString& text)
    {
        for (QAction* action : f.window->findChild<QMenu*>(menu)->actions()) {
            if (action->text().remove('&').startsWith(text)) {
                action->trigger();
                return;
            }
        }
        qFatal("no %s in the menu %s", qPrintable(text), menu);
    }
    static void forward(WindowFixture& f, double seconds)
    {
        for (double t = 0.0; t < seconds; t += 0.1) {
            f.clock->advance(f.playback->live(), 0.1);
            f.playback->tick(0.1);
        }
    }

private slots:
    /// Each shape is chosen, measured by number, and pulled at its grips.
    void everyShapeIsDrawnAndMeasured_data()
    {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<QString>("field");
        QTest::addColumn<int>("index");
        QTest::newRow("box") << "Box"
                             << "areaWidth" << 0;
        QTest::newRow("sphere") << "Sphere"
                                << "areaRadius" << 1;
        QTest::newRow("capsule") << "Capsule"
                                 << "areaCapsuleRadius" << 2;
        QTest::newRow("polygon") << "Polygon"
                                 << "areaPrismHeight" << 3;
        QTest::newRow("line") << "Line"
                              << "areaLineWidth" << 4;
    }
    void everyShapeIsDrawnAndMeasured()
    {
        QFETCH(QString, kind);
        QFETCH(QString, field);
        QFETCH(int, index);
        WindowFixture f(yard);
        f.click(f.plan().placeOf({"thing"}));
        f.choose("emitterKind", "Area");
        f.choose("areaShape", kind);
        const auto shape = [&]() -> const Shape& { return f.emitter("thing").area.shape; };
        QCOMPARE(shape().index(), std::size_t(index));
        f.type(field.toUtf8(), "7");
        const Solid before(shape(), {.at = f.emitter("thing").at});
        const auto [low, high] = before.box();
        QVERIFY(std::abs(high.x - low.x - 7.0) < 0.01 || std::abs(high.z - low.z - 7.0) < 0.01 ||
                std::abs(high.x - low.x - 14.0) < 0.5 || std::abs(high.y - low.y - 7.0) < 0.01 ||
                std::abs(high.y - low.y - 14.0) < 0.5);
        const auto grip = kind == "Box" || kind == "Sphere" ? ShapeGrip::Kind::size : ShapeGrip::Kind::corner;
        const QPointF from = f.plan().placeOfGrip(grip, 0);
        QVERIFY(f.plan().rect().contains(from.toPoint()));
        const Shape untouched = shape();
        WindowFixture::drag(&f.plan(), from, from + QPointF(-30, 24));
        QVERIFY(!(shape() == untouched));
        f.session->undo();
        QVERIFY(shape() == untouched);
    }

    /// Corners are made, moved and taken out; an outline is drawn click by click.
    void cornersComeAndGo()
    {
        WindowFixture f(yard);
        trigger(f, "add", "Zone");
        QCOMPARE(f.level().zones.size(), std::size_t(1));
        const auto corners = [&] { return std::get<Prism>(f.level().zones[0]->shape).corners; };
        QCOMPARE(corners().size(), std::size_t(4));
        const QPointF side = f.plan().placeOfGrip(ShapeGrip::Kind::side, 0);
        WindowFixture::drag(&f.plan(), side, side + QPointF(0, 40));
        QCOMPARE(corners().size(), std::size_t(5));
        QTest::mouseDClick(&f.plan(), Qt::LeftButton, Qt::NoModifier,
                           f.plan().placeOfGrip(ShapeGrip::Kind::corner, 1).toPoint());
        QCOMPARE(corners().size(), std::size_t(4));
        // Drawn anew: a triangle.
        QTest::mouseClick(f.find<QPushButton>("drawZone"), Qt::LeftButton);
        const QPointF middle(f.plan().width() / 2.0, f.plan().height() / 2.0);
        for (const QPointF& way : {QPointF(-80, 60), QPointF(80, 60), QPointF(0, -80)}) {
            f.click(middle + way);
        }
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        QCOMPARE(corners().size(), std::size_t(3));
        // It is moved by its outline, nested, measured, taken out and brought back.
        const Vec3 at = f.level().zones[0]->at;
        const QPointF onOutline =
            f.plan().placeOfGrip(ShapeGrip::Kind::corner, 0) * 0.75 + f.plan().placeOfGrip(ShapeGrip::Kind::corner, 1) * 0.25;
        WindowFixture::drag(&f.plan(), onOutline, onOutline + QPointF(50, 0));
        QVERIFY(f.level().zones[0]->at.x > at.x + 0.5);
        f.type("zoneMargin", "3.5");
        QCOMPARE(f.level().zones[0]->margin_m, 3.5);
        QTest::keyClick(f.window.get(), Qt::Key_Delete);
        QVERIFY(f.level().zones.empty());
        f.session->undo();
        QCOMPARE(f.level().zones.size(), std::size_t(1));
    }

    void aBedLivesInAZone()
    {
        WindowFixture f(yard);
        trigger(f, "add", "Zone");
        f.type("zoneEast", "5");
        f.type("zoneNorth", "30");
        f.click(f.plan().placeOf({"thing"}));
        f.choose("emitterKind", "Bed");
        f.choose("bedZone", "Zone 1");
        QCOMPARE(f.emitter("thing").zone, f.level().zones[0]->id);
        // Outside it comes from there: ahead, and a good way off.
        const Heard heard = f.playback->hearing().hearOne(f.playback->moment(), 0);
        QVERIFY(heard.bearing.distance_m > 20.0 && heard.direction.y > 0.8);
        f.playback->placeFeet({{5, 30, 0}, 0, 0, 0});
        QVERIFY(f.playback->hearing().hearOne(f.playback->moment(), 0).opened == 1.0);
        QTRY_VERIFY(f.find<RowList>("inEarshot")->rows().indexOfKey("zone:zone-1") >= 0);
    }

    void stopsAreDrawnAndPreviewed()
    {
        WindowFixture f(yard);
        f.click(f.plan().placeOf({"thing"}));
        f.choose("emitterKind", "Roamer");
        QTest::mouseClick(f.find<QPushButton>("drawStops"), Qt::LeftButton);
        const QPointF middle(f.plan().width() / 2.0, f.plan().height() / 2.0);
        for (const QPointF& way : {QPointF(-120, 0), QPointF(0, 90), QPointF(120, 0)}) {
            f.click(middle + way);
        }
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        QCOMPARE(f.emitter("thing").roaming.stops.size(), std::size_t(3));
        const QPointF first = f.plan().placeOf({"thing"});
        QVERIFY(std::abs(first.x() - (middle.x() - 120)) < 2.0);
        f.find<QSlider>("roamerRound")->setValue(300);
        QVERIFY(f.plan().placeOf({"thing"}).x() > first.x() + 20.0);
        // A stop is pulled elsewhere.
        const Vec3 stop = f.emitter("thing").roaming.stops[2].at;
        WindowFixture::drag(&f.plan(), middle + QPointF(120, 0), middle + QPointF(120, -60));
        QVERIFY(f.emitter("thing").roaming.stops[2].at.y > stop.y + 0.5);
    }

    void sprinklesStayInOrder()
    {
        WindowFixture f(yard);
        f.click(f.plan().placeOf({"thing"}));
        f.choose("emitterKind", "Sprinkle");
        f.type("sprinkleLeast", "20");
        QCOMPARE(f.emitter("thing").sprinkling.least_s, 20.0);
        QCOMPARE(f.emitter("thing").sprinkling.most_s, 20.0); // the other end gave way
        f.type("sprinkleMost", "0.5");
        QCOMPARE(f.emitter("thing").sprinkling.least_s, 0.5);
        // A starting point sets it up at one stroke, and is one step to take back.
        auto* points = f.find<QComboBox>("sprinklePoints");
        points->setFocus();
        QTest::keyClick(points, Qt::Key_Down);
        QCOMPARE(f.emitter("thing").sprinkling.least_s, 0.3);
        QVERIFY(f.emitter("thing").sprinkling.naturalRate && points->currentIndex() == 0);
        f.session->undo();
        QCOMPARE(f.emitter("thing").sprinkling.least_s, 0.5);
        // What falls is counted while one listens.
        f.playback->setListening(true);
        forward(f, 6.0);
        QTRY_VERIFY(f.find<QLabel>("sprinkleMeasured")->text().startsWith("Measured: "));
        QVERIFY(f.playback->world()->sprinkles.at(0).next >= 10);
    }

    void aSignalAndAValueByHand()
    {
        WindowFixture f(yard);
        QTest::keyClick(f.window.get(), Qt::Key_E, Qt::ControlModifier);
        auto* pad = f.window->findChild<Pad*>("pad");
        QVERIFY(pad != nullptr && pad->isVisible());
        auto* ring = pad->findChild<QPushButton*>("signal ring");
        QVERIFY(!ring->isEnabled());
        f.playback->setListening(true);
        forward(f, 0.5);
        const auto heard = [&] { return f.playback->hearing().hearOne(f.playback->moment(), 1); };
        QVERIFY(!heard().audible);
        QVERIFY(ring->isEnabled());
        QTest::mouseClick(ring, Qt::LeftButton);
        forward(f, 0.5);
        QVERIFY(heard().audible);
        const double before = heard().level_db;
        pad->findChild<QSlider*>("value wind")->setValue(1000);
        forward(f, 0.5);
        QVERIFY(std::abs(heard().level_db - before + 12.0) < 0.1);
        // Time stands still and goes on by a tenth of a second.
        QTest::keyClick(f.window.get(), Qt::Key_K);
        forward(f, 0.5);
        QVERIFY(f.playback->paused());
        const double at = f.playback->snapshot()->time_s;
        forward(f, 1.0);
        QVERIFY(std::abs(f.playback->snapshot()->time_s - at) < 1e-9);
        QTest::keyClick(f.window.get(), Qt::Key_J);
        forward(f, 1.0);
        QVERIFY(std::abs(f.playback->snapshot()->time_s - at - 0.1) < 0.02);
        QTest::keyClick(f.window.get(), Qt::Key_K);
        forward(f, 1.0);
        QVERIFY(!f.playback->paused() && f.playback->snapshot()->time_s > at + 0.5);
    }

    /// Scrubbing shows what the walk's own events have done by then.
    void scrubbingGoesThroughTheWalksEvents()
    {
        WindowFixture f(yard);
        const auto heard = [&] { return f.playback->hearing().hearOne(f.playback->moment(), 1); };
        f.playback->seekWalk(3.9);
        QVERIFY(!heard().audible);
        f.playback->seekWalk(4.1);
        QVERIFY(heard().audible);
        f.playback->seekWalk(2.0);
        QVERIFY(!heard().audible);
        // Listening from the middle is the same night.
        f.playback->seekWalk(5.0);
        f.playback->setWalking(true);
        forward(f, 0.3);
        QVERIFY(heard().audible);
    }
};

QTEST_MAIN(TestAmbienceWindow)
#include "tst_ambience_window.moc"
