// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes/lane_stack.h"
#include "app/lists/row_list.h"
#include "app/section/section_view.h"
#include "app/widgets/number_field.h"
#include "app/window_fixture.h"

#include "app/ambience/pad.h"
#include "project/edit.h"
#include "support/one_of_many.h"

#include <QDoubleSpinBox>
#include <QInputDialog>
#include <QMenu>
#include <QSlider>
#include <QToolButton>

#include <algorithm>
#include <cmath>

namespace tst_ambience_window
{

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

    /// Whether what the Plan keeps as a picture is what it would draw now.
    static bool drawnAsNew(PlanView& plan)
    {
        const QImage kept = plan.grab().toImage();
        const QSize size = plan.size();
        plan.resize(size + QSize(8, 0)); // another picture
        plan.grab();
        plan.resize(size);
        return plan.grab().toImage() == kept;
    }

private slots:
    /// What stays is kept as a picture; whatever it depends on makes another.
    void whatStaysOnThePlanIsDrawnAnewWhenItChanges()
    {
        WindowFixture f(R"({"sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
          "levels": [{"name": "Yard", "storeys": [{"name": "Ground"}, {"name": "Upper", "floor_m": 4, "cut_m": 5.5}],
            "zones": [{"id": "z", "name": "Grove", "at": [4, 4, 0], "shape": {"is": "box", "size_m": [4, 4, 3]}, "margin_m": 2}],
            "rooms": [{"id": "r", "name": "Shed", "at": [-5, 4, 0], "shape": {"is": "box", "size_m": [3, 3, 3]}}],
            "emitters": [
              {"id": "a", "name": "Stream", "kind": "area", "at": [4, -4, 0], "sound": "tone",
               "area": {"shape": {"is": "box", "size_m": [3, 2, 1]}}},
              {"id": "w", "name": "Cart", "kind": "roamer", "at": [-4, -4, 0], "sound": "tone",
               "roaming": {"stops": [{"at": [-4, -4, 0]}, {"at": [-8, -2, 0]}]}}],
            "walks": [{"id": "walk", "name": "Round", "points": [{"t_s": 0, "at": [0, 0, 0]}, {"t_s": 4, "at": [4, 4, 0]}]}]}]})");
        QImage last;
        const auto changed = [&](const char* what) {
            const QImage now = f.plan().grab().toImage();
            const bool another = now != last;
            last = now;
            QVERIFY2(another, what);
            QVERIFY2(drawnAsNew(f.plan()), what);
        };
        changed("opened");
        f.session->selectThing<Zone>({"z"});
        changed("a zone selected");
        f.plan().markSide(1);
        changed("a side marked");
        f.session->selectThing<Room>({"r"});
        changed("a room selected");
        f.session->selectOnly({"a"});
        changed("an area selected");
        f.session->edit(withLevel(f.session->project(), f.session->levelId(),
                                  [](Level& level) {
                                      Zone zone = *level.zones[0];
                                      zone.at.x = 6.0;
                                      level.zones.put(zone);
                                  }),
                        "Move Grove");
        changed("a zone moved");
        f.session->undo();
        changed("and back");
        f.plan().zoomBy(1.5);
        changed("zoomed");
        f.plan().showStorey(1);
        changed("another storey");
        f.plan().showStorey(0);
        changed("and back");
    }

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
        // Its handle has come along: the corners lie about it, where they were clicked.
        Vec2 mean{0.0};
        for (const Vec2& corner : corners()) {
            mean += corner / 3.0;
        }
        QVERIFY(glm::length(mean) < 0.02);
        const QPointF first = f.plan().placeOfGrip(ShapeGrip::Kind::corner, 0);
        QVERIFY(std::hypot(first.x() - (middle.x() - 80), first.y() - (middle.y() + 60)) < 2.0);
        QCOMPARE(f.find<QDoubleSpinBox>("zoneEast")->value(), f.level().zones[0]->at.x);
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

    /// A shape is turned by its grip, and put round a part of the level by a click on it.
    void shapesAreTurnedAndFitted()
    {
        std::string document = yard;
        document.replace(document.find("\"emitters\""), 0,
                         "\"geometry\": {\"file\": \"level.glb\"}, \"character\": {\"start\": [18, -14, 0]}, ");
        WindowFixture f(document, true);
        f.session->selectOnly({"thing"});
        f.choose("emitterKind", "Area");
        const QPointF turn = f.plan().placeOfGrip(ShapeGrip::Kind::turn, 0);
        const QPointF centre = f.plan().placeOf({"thing"});
        WindowFixture::drag(&f.plan(), turn, centre + QPointF(80, 80));
        QVERIFY(std::abs(f.emitter("thing").heading_deg - 135.0) <= 1.0);
        QVERIFY(f.plan().placeOfGrip(ShapeGrip::Kind::turn, 0).x() > centre.x() + 5.0);
        QTest::mouseClick(f.find<QPushButton>("areaFit"), Qt::LeftButton);
        QCOMPARE(f.plan().tool(), PlanView::Tool::fit);
        // The signal box stands by itself at the north-east.
        f.click(f.plan().camera().toScreen(Vec2{65.0, 51.0}));
        QCOMPARE(f.plan().tool(), PlanView::Tool::select);
        const Emitter& fitted = f.emitter("thing");
        QVERIFY(std::abs(fitted.at.x - 65.0) < 4.0 && std::abs(fitted.at.y - 51.0) < 4.0);
        QVERIFY(std::get<Box>(fitted.area.shape).size_m.x < 9.0);
        f.session->undo();
        QVERIFY(f.emitter("thing").at == Vec3(5, 5, 1.5));
    }

    void heightsAreDrawnOnTheSection()
    {
        WindowFixture f(yard);
        auto* section = f.window->findChild<SectionView*>("section");
        QVERIFY(!section->isVisible());
        QTest::keyClick(f.window.get(), Qt::Key_H);
        QVERIFY(section->isVisible());
        // An emitter is lifted; where it lies across the sheet stays.
        const QPointF bell = section->placeOf({"bell"});
        WindowFixture::drag(section, bell, section->toScreen({1.0, 3.0, 2.5}));
        QVERIFY(glm::length(f.emitter("bell").at - Vec3(1.0, 3.0, 2.5)) < 0.15);
        QCOMPARE(f.emitter("bell").at.y, 3.0);
        trigger(f, "add", "Zone");
        const auto zone = [&]() -> const Zone& { return *f.level().zones[0]; };
        const double top = zone().at.z + std::get<Prism>(zone().shape).height_m;
        const QPointF floor = section->placeOfGrip(HeightGrip::Kind::bottom, 0);
        const double perMetre = section->toScreen({0, 0, 0}).y() - section->toScreen({0, 0, 1}).y();
        WindowFixture::drag(section, floor, floor - QPointF(0, perMetre));
        QVERIFY(std::abs(zone().at.z - 1.0) < 0.15);
        QVERIFY(std::abs(zone().at.z + std::get<Prism>(zone().shape).height_m - top) < 0.011);
        const QPointF ceiling = section->placeOfGrip(HeightGrip::Kind::top, 0);
        WindowFixture::drag(section, ceiling, ceiling - QPointF(0, 1.5 * perMetre));
        QVERIFY(std::abs(std::get<Prism>(zone().shape).height_m - (top - zone().at.z) - 1.5) < 0.1);
        // Seen from the side: what was along is across.
        QTest::mouseClick(f.find<QPushButton>("sectionTurn"), Qt::LeftButton);
        QCOMPARE(section->looking(), Looking::west);
        QVERIFY(std::abs(section->across_m() - zone().at.x) < 0.01);
    }

    void rangesAreDrawnRoundThePlayer()
    {
        WindowFixture f(yard);
        f.session->selectOnly({"thing"});
        f.choose("emitterKind", "Sprinkle");
        const auto sprinkle = [&]() -> const Sprinkling& { return f.emitter("thing").sprinkling; };
        const QPointF ears = f.plan().placeOfEars();
        const double scale = f.plan().camera().pixelsPerMetre;
        WindowFixture::drag(&f.plan(), f.plan().placeOfRange(RangeGrip::End::nearest), ears - QPointF(0, 3.0 * scale));
        QVERIFY(std::abs(sprinkle().nearest_m - 3.0) < 0.11);
        WindowFixture::drag(&f.plan(), f.plan().placeOfRange(RangeGrip::End::toAngle), ears + QPointF(60, 0));
        QCOMPARE(sprinkle().toAngle_deg, 90.0);
        QCOMPARE(sprinkle().fromAngle_deg, -180.0);
        // No end passes the other one.
        WindowFixture::drag(&f.plan(), f.plan().placeOfRange(RangeGrip::End::nearest), QPointF(ears.x() - 300, ears.y() - 300));
        QVERIFY(sprinkle().nearest_m <= sprinkle().farthest_m);
        f.choose("sprinkleWhere", "in a box round the player");
        const Vec3 low = sprinkle().low_m;
        WindowFixture::drag(&f.plan(), f.plan().placeOfRange(RangeGrip::End::right), ears + QPointF(4.0 * scale, 5));
        QVERIFY(std::abs(sprinkle().high_m.x - 4.0) < 0.11);
        QVERIFY(sprinkle().low_m == low);
    }

    void marginsAndFadesOfAZone()
    {
        WindowFixture f(yard);
        trigger(f, "add", "Zone");
        trigger(f, "add", "Zone");
        const auto zone = [&]() -> const Zone& { return *f.session->selected<Zone>(); };
        f.type("zoneMargin", "2");
        f.choose("zoneSide", "side 2");
        f.type("zoneMargin", "6");
        QCOMPARE(zone().margins, (std::vector<double>{2.0, 6.0}));
        f.choose("zoneSide", "all sides");
        f.type("zoneMargin", "3");
        QVERIFY(zone().margins.empty() && zone().margin_m == 3.0);
        QVERIFY(!f.find<QPushButton>("drawFades")->isEnabled()); // inside of nothing there is nothing to fade
        f.choose("zoneParent", "Zone 1");
        QTest::mouseClick(f.find<QPushButton>("drawFades"), Qt::LeftButton);
        auto* stack = f.window->findChild<QWidget*>("zoneFades")->findChild<LaneStack*>();
        QVERIFY(stack->isVisible());
        stack->enlarge(LaneProperty::lowPass);
        const auto lowPass = std::find_if(zone().fades.begin(), zone().fades.end(),
                                          [](const Lane& l) { return l.property == LaneProperty::lowPass; });
        QVERIFY(lowPass != zone().fades.end() && lowPass->over == LaneInput::depth);
    }

    /// What belongs to starting is set up on the bench and the pad, and put on the walk.
    void signalsAndValuesAreSetUp()
    {
        WindowFixture f(yard);
        f.playback->seekWalk(6.0);
        QTest::keyClick(f.window.get(), Qt::Key_E, Qt::ControlModifier);
        auto* pad = f.window->findChild<Pad*>("pad");
        const auto choose = [&](const char* button, const QString& text) {
            for (QAction* action : pad->findChild<QToolButton*>(button)->menu()->actions()) {
                if (action->text().startsWith(text)) {
                    action->trigger();
                    return;
                }
            }
            qFatal("no %s", qPrintable(text));
        };
        const auto type = [&](const QString& field, const QString& text) {
            auto* number = pad->findChild<NumberField*>(field);
            number->setFocus();
            number->selectAll();
            QTest::keyClicks(number, text);
            QTest::keyClick(number, Qt::Key_Return);
        };
        choose("more value wind", "Range");
        type("most wind", "20");
        type("smoothing wind", "1.5");
        type("rest wind", "5");
        type("least wind", "8"); // takes the rest along
        const GameValue& wind = *f.session->project().gameValues[0];
        QVERIFY(wind.most == 20.0 && wind.smoothing_s == 1.5 && wind.least == 8.0 && wind.rest == 8.0);
        choose("more signal ring", "Put on the walk");
        choose("more value wind", "Put on the walk");
        const auto events = [&]() -> const std::vector<WalkEvent>& { return f.level().walks[0]->events; };
        QCOMPARE(events().size(), std::size_t(3));
        QVERIFY(events()[1].t_s == 6.0 && events()[2].kind == WalkEvent::Kind::value && events()[2].number == 8.0);
        type("eventTime2", "1");
        QVERIFY(events()[0].t_s == 1.0 && events()[0].kind == WalkEvent::Kind::value); // in order of time
        QTest::mouseClick(pad->findChild<QToolButton*>("eventRemove0"), Qt::LeftButton);
        QCOMPARE(events().size(), std::size_t(2));
        // What sends it there and back.
        f.choose("mostOn wind", "Ring");
        f.choose("restOn wind", "Ring");
        const GameValue& sent = *f.session->project().gameValues[0];
        QVERIFY(sent.mostOn == SignalId{"ring"} && sent.restOn == SignalId{"ring"});
        pad->close();
        // Once only, re-armed by something.
        f.session->selectOnly({"bell"});
        auto* tabs = f.find<QTabBar>("benchTabs");
        for (int i = 0; i < tabs->count(); ++i) {
            if (tabs->tabText(i) == "Start") {
                tabs->setCurrentIndex(i);
            }
        }
        auto* rearm = f.window->findChild<QPushButton*>("addRearm");
        QVERIFY(!rearm->isVisible());
        QTest::mouseClick(f.find<QCheckBox>("startOnce"), Qt::LeftButton);
        QVERIFY(rearm->isVisible());
        emit rearm->menu()->aboutToShow();
        rearm->menu()->actions().last()->trigger();
        QVERIFY(f.emitter("bell").starting.once && f.emitter("bell").starting.rearms[0].cause == Cause::reset);
    }

    /// Steps strike while one walks, not in the air; a jump is a jump and a landing.
    void stepsStrikeAndJumpsLand()
    {
        WindowFixture f(yard);
        f.session->selectOnly({"thing"});
        f.choose("emitterKind", "Steps");
        f.playback->setListening(true);
        const auto forward = [&](WindowFixture&, double seconds) {
            for (double t = 0.0; t < seconds; t += 0.02) { // as often as the window's own clock, or nearly
                f.clock->advance(f.playback->live(), 0.02);
                f.playback->tick(0.02);
            }
        };
        forward(f, 0.3);
        f.plan().setFocus();
        QTest::keyPress(&f.plan(), Qt::Key_W);
        forward(f, 3.0);
        QTest::keyRelease(&f.plan(), Qt::Key_W);
        forward(f, 0.2);
        const std::uint64_t steps = f.playback->world()->steps;
        // 3 s at 1.4 m/s, a step every 0.75 m, the first after half of one.
        QVERIFY2(steps >= 5 && steps <= 6, qPrintable(QString::number(steps)));
        QTest::keyClick(f.window.get(), Qt::Key_U);
        double highest = 0.0;
        bool aloft = false;
        for (int i = 0; i < 40; ++i) {
            f.clock->advance(f.playback->live(), 0.02);
            f.playback->tick(0.02);
            highest = std::max(highest, f.playback->feet().at.z);
            aloft = aloft || (f.playback->world() != nullptr && f.playback->world()->airborne);
        }
        QVERIFY(highest > 0.4 && highest < 0.6 && aloft);
        QVERIFY(f.playback->feet().at.z == 0.0 && !f.playback->world()->airborne);
        QCOMPARE(f.playback->world()->steps, steps);
    }

    /// What rides on the character is always as far away; chosen on the bench.
    void thingsRideOnTheCharacter()
    {
        WindowFixture f(yard);
        f.session->selectOnly({"thing"});
        auto* tabs = f.find<QTabBar>("benchTabs");
        for (int i = 0; i < tabs->count(); ++i) {
            if (tabs->tabText(i) == "Start") {
                tabs->setCurrentIndex(i);
            }
        }
        f.choose("ridesOn", "the character");
        const QPointF offset = f.plan().placeOf({"thing"}) - f.plan().placeOfEars();
        f.playback->placeFeet({{10, -4, 0}, 90, 0, 0});
        const auto near = [](const QPointF& a, const QPointF& b) { return std::hypot(a.x() - b.x(), a.y() - b.y()) < 1.0; };
        QVERIFY(near(f.plan().placeOf({"thing"}) - f.plan().placeOfEars(), offset)); // keeps the compass
        QTest::mouseClick(f.find<QCheckBox>("ridesTurns"), Qt::LeftButton);
        QVERIFY(near(f.plan().placeOf({"thing"}) - f.plan().placeOfEars(), QPointF(-offset.y(), offset.x())));
    }

    void theSeedIsTyped()
    {
        WindowFixture f(yard);
        const auto answer = [&](const QString& text) {
            QTimer::singleShot(0, [&, text] {
                auto* dialog = f.window->findChild<QInputDialog*>("seed");
                dialog->setTextValue(text);
                dialog->accept();
            });
            for (QMenu* menu : f.window->findChildren<QMenu*>()) {
                for (QAction* action : menu->actions()) {
                    if (action->text().remove('&').startsWith("Seed of chance")) {
                        action->trigger();
                        return;
                    }
                }
            }
        };
        answer("18446744073709551615");
        QCOMPARE(f.session->project().seed, std::numeric_limits<std::uint64_t>::max());
        answer("minus one");
        QCOMPARE(f.session->project().seed, std::numeric_limits<std::uint64_t>::max());
        QVERIFY(f.window->banner().isVisible());
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

} // namespace tst_ambience_window

STONE_TEST(tst_ambience_window, TestAmbienceWindow)
#include "tst_ambience_window.moc"
