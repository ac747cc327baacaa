// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/outline_distance.h"
#include "app/window_fixture.h"
#include "project/edit.h"
#include "project/side_on.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <QAction>
#include <QCheckBox>
#include <QComboBox>
#include <QImage>
#include <QLabel>
#include <QMimeData>

namespace tst_side_on_window
{

using namespace stone;

namespace
{

/// Ground from x = -10 to 30 with a pit from 12 to 14, a ledge from 4 to 7, and a low ceiling over x = -9 to -5.
std::string stageObj()
{
    const std::array<std::array<Vec3, 2>, 5> boxes{{{Vec3{-10, -4, -5}, Vec3{12, 4, 0}},
                                                    {Vec3{12, -4, -5}, Vec3{14, 4, -4}},
                                                    {Vec3{14, -4, -5}, Vec3{30, 4, 0}},
                                                    {Vec3{4, -4, 0}, Vec3{7, 4, 0.8}},
                                                    {Vec3{-9, -4, 2.4}, Vec3{-5, 4, 2.7}}}};
    std::string text;
    for (const auto& [low, high] : boxes) {
        text += fixture::boxObj("stone", low, high);
    }
    return text;
}

const std::string stage = R"({
  "name": "Stage",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 20}]}],
  "levels": [{"id": "stage", "geometry": {"file": "stage.obj", "up": "z"}, "character": {"speed_m_s": 2, "jump_m": 1},
   "emitters": [{"id": "a", "name": "Lamp", "at": [5, 0, 1.6], "sound": "tone", "falloff": "yard"},
                {"id": "r", "name": "Cart", "kind": "roamer", "sound": "tone", "falloff": "yard",
                 "roamer": {"stops": [{"at": [-4, 0, 0.5]}, {"at": [2, 0, 0.5]}]}}],
   "walks": [{"id": "w", "name": "Along", "points": [{"t_s": 0, "at": [0, 0, 0]}, {"t_s": 4, "at": [3, 0, 0]}]}]}]
})";

struct Stage : WindowFixture {
    Stage() : WindowFixture(stage)
    {
        fixture::writeText(folder.filePath("stage.obj").toStdString(), stageObj());
        start();
        session->edit(seenFrom(session->project(), session->levelId(), Looking::north), "from the side");
        plan().fitAll();
        plan().setFocus();
    }

    /// A place of the sheet in the Plan's pixels.
    QPointF at(double along, double up) { return plan().camera().toScreen(Vec2{along, up}); }

    void ticks(double seconds)
    {
        constexpr double tick_s = 1.0 / 60.0;
        for (double t = 0.0; t < seconds; t += tick_s) {
            playback->tick(tick_s);
            highest_m = std::max(highest_m, feet().z);
        }
    }
    void hold(Qt::Key key, double seconds)
    {
        QTest::keyPress(&plan(), key);
        ticks(seconds);
        QTest::keyRelease(&plan(), key);
        ticks(0.05);
    }
    Vec3 feet() const { return playback->feet().at; }

    double highest_m = 0.0;
};

bool near(const Vec3& a, const Vec3& b, double within_m = 0.06)
{
    return glm::length(a - b) < within_m;
}

} // namespace

/// Levels seen from the side, in the window: chosen on the level's page, drawn and walked on an upright sheet.
class TestSideOnWindow : public QObject
{
    Q_OBJECT

private slots:
    void isChosenOnTheLevelsPage()
    {
        WindowFixture f(oneTone);
        f.start();
        QTest::keyClick(f.window.get(), Qt::Key_L, Qt::ControlModifier);
        QVERIFY(!f.level().sideOn);
        f.choose("levelSeen", "from the side, looking north");
        QVERIFY(f.level().sideOn == Looking::north);
        QVERIFY(f.plan().camera().upright == Looking::north);
        QCOMPARE(f.level().character.heading_deg, 90.0);
        QCOMPARE(f.find<QComboBox>("levelEars")->currentIndex(), 0);
        QVERIFY(!WindowFixture::isShown(f.window->findChild<QWidget*>("storeySwitch")));
        f.choose("levelEars", "where it goes");
        QVERIFY(!listensInto(f.session->project(), Looking::north));
        f.choose("levelEars", "into the picture");
        QVERIFY(listensInto(f.session->project(), Looking::north));
        f.type("jumpHeight", "2.5");
        f.type("gravity", "3.7");
        QCOMPARE(f.level().character.jump_m, 2.5);
        QCOMPARE(f.level().character.gravity_m_s2, 3.7);
        f.choose("levelSeen", "from the side, looking west");
        QVERIFY(f.plan().camera().upright == Looking::west);
        f.choose("levelSeen", "from above");
        QVERIFY(!f.plan().camera().upright);
        QVERIFY(WindowFixture::isShown(f.window->findChild<QWidget*>("storeySwitch")));
        while (!f.session->undoName().isEmpty()) {
            f.session->undo();
        }
        QVERIFY(!f.level().sideOn && f.session->project().rigs.empty());
    }

    void thingsAreDrawnWhereTheyAreOnTheSheet()
    {
        Stage f;
        QVERIFY(distanceBetween(f.plan().placeOf({"a"}), f.at(5, 1.6)) < 0.01);
        QVERIFY(distanceBetween(f.plan().placeOfEars(), f.at(0, 0)) < 0.01);
        // Where the section goes through stone it is ink, where it does not, paper.
        const QImage picture = f.plan().grab().toImage();
        const auto dark = [&](double along, double up) {
            return picture.pixelColor(f.at(along, up).toPoint()).lightness() < 90;
        };
        QVERIFY(dark(-6, -2.5) && dark(6.8, 0.4) && dark(-7.3, 2.55));
        QVERIFY(!dark(13, -2) && !dark(9.3, 2.2));
    }

    void keysWalkAlongTheSheetAndJump()
    {
        Stage f;
        f.hold(Qt::Key_D, 1.0);
        QVERIFY2(near(f.feet(), {2.0, 0, 0}, 0.1), std::to_string(f.feet().x).c_str());
        QVERIFY(std::abs(wrapDegrees(f.playback->feet().heading_deg - 90.0)) < 1e-6);
        f.hold(Qt::Key_A, 1.5);
        QVERIFY(near(f.feet(), {-1.0, 0, 0}, 0.15));
        QVERIFY(std::abs(wrapDegrees(f.playback->feet().heading_deg + 90.0)) < 1e-6);
        f.hold(Qt::Key_Right, 1.0); // arrows do the same
        QVERIFY(near(f.feet(), {1.0, 0, 0}, 0.2));
        // The ledge stops who walks; who jumps comes on it.
        f.hold(Qt::Key_D, 3.0);
        QVERIFY(f.feet().x < 4.0 && f.feet().z < 0.01);
        QTest::keyPress(&f.plan(), Qt::Key_D);
        QTest::keyClick(&f.plan(), Qt::Key_W);
        f.ticks(1.0);
        QTest::keyRelease(&f.plan(), Qt::Key_D);
        f.ticks(0.5);
        QVERIFY2(f.feet().x > 4.0 && std::abs(f.feet().z - 0.8) < 1e-4, std::to_string(f.feet().z).c_str());
        QVERIFY(std::abs(f.highest_m - 1.0) < 0.02); // as high as the level says
        QVERIFY(std::abs(f.feet().y) < 1e-9);
    }

    void whoWalksOnFallsAndIsStoppedByCeilings()
    {
        Stage f;
        f.playback->placeFeet({{10, 0, 0}, 90, 0, 0});
        const int falls = f.playback->walker().falls();
        f.hold(Qt::Key_D, 1.6);
        f.ticks(1.5);
        QVERIFY2(std::abs(f.feet().z + 4.0) < 1e-3, std::to_string(f.feet().z).c_str());
        QCOMPARE(f.playback->walker().falls(), falls + 1);
        // Under a ceiling 2.4 m up a head of 1.6 m has not the room for a jump of a metre.
        f.playback->placeFeet({{-7, 0, 0}, 90, 0, 0});
        f.highest_m = 0.0;
        QTest::keyClick(&f.plan(), Qt::Key_W);
        f.ticks(1.0);
        QVERIFY2(f.highest_m > 0.4 && f.highest_m < 0.75, std::to_string(f.highest_m).c_str());
        QCOMPARE(f.feet().z, 0.0);
        // Into the air and down again is no fall.
        QCOMPARE(f.playback->walker().falls(), falls + 1);
    }

    void cellsGoAlongTheSheetToo()
    {
        Stage f;
        f.session->edit(withLevel(f.session->project(), {"stage"},
                                  [](Level& level) {
                                      level.character.moves = Character::Moves::directions;
                                      level.character.cell_m = 1.5;
                                  }),
                        "cells");
        QTest::keyClick(&f.plan(), Qt::Key_D);
        f.ticks(2.0);
        QVERIFY(near(f.feet(), {1.5, 0, 0}, 1e-3));
        QTest::keyClick(&f.plan(), Qt::Key_A);
        f.ticks(2.0);
        QVERIFY(near(f.feet(), {0, 0, 0}, 1e-3));
        QVERIFY(std::abs(wrapDegrees(f.playback->feet().heading_deg + 90.0)) < 1e-6);
        f.highest_m = 0.0;
        QTest::keyClick(&f.plan(), Qt::Key_W);
        f.ticks(2.0);
        QVERIFY(near(f.feet(), {0, 0, 0}, 1e-3) && std::abs(f.highest_m - 1.0) < 0.02);
    }

    void soundsArePlacedAndDragged()
    {
        Stage f;
        f.plan().setSoundToPlace({"tone"});
        f.plan().setTool(PlanView::Tool::place);
        f.click(f.at(9, 2.5));
        const Emitter* placed = f.session->primary();
        QVERIFY(placed != nullptr);
        QVERIFY(near(placed->at, {9, 0, 2.5}));
        const EmitterId id = placed->id;
        f.drag(&f.plan(), f.plan().placeOf(id), f.at(8, 4));
        QVERIFY(near(f.emitter(id.text).at, {8, 0, 4}));
        f.session->undo();
        QVERIFY(near(f.emitter(id.text).at, {9, 0, 2.5}));
        // Nudged by keys: up is up.
        f.session->selectOnly(id);
        f.menu("Up 1 m");
        QVERIFY(near(f.emitter(id.text).at, {9, 0, 3.5}));
        // Its rings are dragged: silent at so far as it is from the ring.
        f.session->selectOnly({"a"});
        f.playback->placeFeet({{5, 0, 0}, 90, 0, 0});
        const QPointF lamp = f.plan().placeOf({"a"});
        const double scale = f.plan().camera().pixelsPerMetre;
        f.drag(&f.plan(), lamp - QPointF(0, 2.0 * scale), lamp - QPointF(0, 3.0 * scale));
        QCOMPARE(f.session->project().falloffs[0]->lanes.front().formula.reference_m, 3.0);
    }

    void soundsAreDropped()
    {
        Stage f;
        QMimeData data;
        data.setData("application/x-stone-echo-sound", "tone");
        const QPointF at = f.at(1, 3);
        QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&f.plan(), &enter);
        QDropEvent drop(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&f.plan(), &drop);
        QVERIFY(near(f.session->primary()->at, {1, 0, 3}));
    }

    void outlinesStandOnTheSheet()
    {
        Stage f;
        f.session->selectNone();
        f.plan().setTool(PlanView::Tool::draw);
        f.click(f.at(14, 0.5));
        f.click(f.at(20, 3.5));
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        const auto* zone = f.session->selected<Zone>();
        QVERIFY(zone != nullptr);
        const auto* prism = std::get_if<Prism>(&zone->shape);
        QVERIFY(prism != nullptr && prism->standing);
        QCOMPARE(prism->corners.size(), std::size_t{4}); // from corner to corner
        const Solid solid(zone->shape, frameAt(zone->at, zone->heading_deg));
        QVERIFY(solid.contains({17, 0, 2}) && solid.contains({14.2, 0, 3.2}) && solid.contains({17, 2.5, 2}));
        QVERIFY(!solid.contains({17, 0, 4}) && !solid.contains({13, 0, 2}) && !solid.contains({17, 3.5, 2}));
        // A corner is pulled, the whole is moved by its edge, a corner is taken away.
        const ZoneId id = zone->id;
        const QPointF corner = f.plan().placeOfGrip(ShapeGrip::Kind::corner, 2);
        QVERIFY(distanceBetween(corner, f.at(20, 3.5)) < 1.0);
        f.drag(&f.plan(), corner, f.at(22, 5));
        QVERIFY(distanceBetween(f.plan().placeOfGrip(ShapeGrip::Kind::corner, 2), f.at(22, 5)) < 2.0);
        const Vec3 before = f.level().zones.find(id)->at;
        f.drag(&f.plan(), f.at(15.4, 0.5), f.at(15.4, 1.5));
        QVERIFY(near(f.level().zones.find(id)->at, before + Vec3{0, 0, 1}));
        QTest::mouseDClick(&f.plan(), Qt::LeftButton, {}, f.plan().placeOfGrip(ShapeGrip::Kind::corner, 2).toPoint());
        QCOMPARE(std::get<Prism>(f.level().zones.find(id)->shape).corners.size(), std::size_t{3});
        // One that lay on the plan stands once a corner of it is pulled.
        f.session->editThing<Zone>("a box", {}, [](Zone& z) {
            z.shape = Box{{4, 6, 2}};
            z.at = {2, 0, 0};
            z.heading_deg = 0.0;
        });
        f.drag(&f.plan(), f.plan().placeOfGrip(ShapeGrip::Kind::corner, 2), f.at(6, 3));
        const auto* stood = std::get_if<Prism>(&f.level().zones.find(id)->shape);
        QVERIFY(stood != nullptr && stood->standing);
        QCOMPARE(stood->height_m, 6.0);
        const Solid now(*stood, frameAt(f.level().zones.find(id)->at, f.level().zones.find(id)->heading_deg));
        QVERIFY(now.contains({5.5, 0, 2.6}) && now.contains({0.1, 2.9, 0.1}) && !now.contains({0.1, 0, 2.5}));
    }

    void zonesFromTheMenuStandToo()
    {
        Stage f;
        f.session->selectNone();
        f.menu("Zone");
        const auto* zone = f.session->selected<Zone>();
        QVERIFY(zone != nullptr && std::get<Prism>(zone->shape).standing);
        QVERIFY(f.find<QCheckBox>("zoneStanding")->isChecked());
        f.find<QCheckBox>("zoneStanding")->click();
        QVERIFY(!std::get<Prism>(f.session->selected<Zone>()->shape).standing);
        f.session->selectNone();
        f.menu("Room");
        QVERIFY(std::get<Prism>(f.session->selected<Room>()->shape).standing);
    }

    void stopsAndWalksAreDrawnInTheAir()
    {
        Stage f;
        f.session->selectOnly({"r"});
        f.plan().setTool(PlanView::Tool::draw);
        for (const Vec2& p : {Vec2{0, 2}, {4, 3}, {8, 2.5}}) {
            f.click(f.at(p.x, p.y));
        }
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        const auto& stops = f.emitter("r").roaming.stops;
        QCOMPARE(stops.size(), std::size_t{3});
        QVERIFY(near(stops[1].at, {4, 0, 3}) && near(stops[2].at, {8, 0, 2.5}));
        f.drag(&f.plan(), f.at(4, 3), f.at(4, 4));
        QVERIFY(near(f.emitter("r").roaming.stops[1].at, {4, 0, 4}));

        f.plan().setTool(PlanView::Tool::walk);
        for (const Vec2& p : {Vec2{9, 0.1}, {11, 1.5}, {15, -0.1}}) {
            f.click(f.at(p.x, p.y));
        }
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        const auto* walk = f.session->selected<Walk>();
        QVERIFY(walk != nullptr);
        QCOMPARE(walk->points.size(), std::size_t{3});
        QVERIFY(near(walk->points[0].at, {9, 0, 0}));    // on the ground, as it was drawn close to it
        QVERIFY(near(walk->points[1].at, {11, 0, 1.5})); // in the air
        QVERIFY(near(walk->points[2].at, {15, 0, 0}));
        f.drag(&f.plan(), f.plan().placeOfWalkPoint(1), f.at(12, 2.2));
        QVERIFY(near(f.session->selected<Walk>()->points[1].at, {12, 0, 2.2}));
        QTest::mouseDClick(&f.plan(), Qt::LeftButton, {}, f.at(13.5, 1.1).toPoint());
        QCOMPARE(f.session->selected<Walk>()->points.size(), std::size_t{4});
        QVERIFY(near(f.session->selected<Walk>()->points[2].at, {13.5, 0, 1.1}, 0.15));
    }

    void linesOfPlantRulesStandUpright()
    {
        Stage f;
        f.session->selectOnly({"a"});
        f.menu("Plant rule");
        QVERIFY(f.session->selected<Plant>() != nullptr);
        f.plan().setTool(PlanView::Tool::draw);
        f.click(f.at(15, 1));
        f.click(f.at(21, 4));
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        const auto* plant = f.session->selected<Plant>();
        const auto& ribbon = std::get<Ribbon>(plant->shape);
        const Solid::Frame frame = frameAt(plant->at, plant->heading_deg);
        QVERIFY(near(frame.at + frame.aside * ribbon.points[0].x + frame.up * ribbon.points[0].z, {15, 0, 1}));
        QVERIFY(near(frame.at + frame.aside * ribbon.points[1].x + frame.up * ribbon.points[1].z, {21, 0, 4}));
    }

    void openingsRunAcross()
    {
        Stage f;
        f.menu("Opening");
        f.click(f.at(10, 0));
        f.click(f.at(10, 2));
        const auto* opening = f.session->selected<Opening>();
        QVERIFY(opening != nullptr);
        QVERIFY(std::abs(opening->sill_m) < 0.06 && std::abs(opening->head_m - 2.0) < 0.06);
        QVERIFY(std::abs(opening->from.x - opening->to.x) < 1e-9 && std::abs(opening->from.y - opening->to.y) > 1.0);
        f.drag(&f.plan(), f.plan().placeOfOpeningEnd(1), f.at(10, 2.6));
        QVERIFY(std::abs(f.session->selected<Opening>()->head_m - 2.6) < 0.06);
    }

    void theCharacterIsCarriedAndTurned()
    {
        Stage f;
        f.drag(&f.plan(), f.plan().placeOfEars(), f.at(9, 2));
        QVERIFY(near(f.feet(), {9, 0, 2}, 0.1));
        f.drag(&f.plan(), f.plan().placeOfNose(), f.plan().placeOfNose() - QPointF(120, 0));
        QVERIFY(std::abs(wrapDegrees(f.playback->feet().heading_deg + 90.0)) < 1e-6);
        // A double click puts it on the ground below.
        QTest::mouseDClick(&f.plan(), Qt::LeftButton, {}, f.at(13, 1).toPoint());
        QVERIFY2(near(f.feet(), {13, 0, -4}, 0.1), std::to_string(f.feet().z).c_str());
    }

    void thingsArePastedWhereTheSheetSays()
    {
        Stage f;
        f.session->selectOnly({"a"});
        f.menu("Copy");
        QCursor::setPos(f.plan().mapToGlobal(f.at(16, 3).toPoint()));
        f.menu("Paste at the pointer");
        const Emitter* pasted = f.session->primary();
        QVERIFY(pasted != nullptr && pasted->id != EmitterId{"a"});
        QCOMPARE(pasted->at.y, 0.0);
        QVERIFY2(near(pasted->at, {16, 0, 3}, 0.2), std::to_string(pasted->at.z).c_str());
    }

    /// A picture of known length lies on the upright sheet, and things can be done without any geometry.
    void aPictureLiesUnderIt()
    {
        WindowFixture f(oneTone);
        QImage image(200, 100, QImage::Format_RGB32);
        image.fill(Qt::red);
        QVERIFY(image.save(f.folder.filePath("stage.png")));
        f.start();
        f.session->edit(seenFrom(withLevel(f.session->project(), f.session->levelId(),
                                           [](Level& level) {
                                               level.geometry = GeometryPicture{"stage.png", 20.0, {-5.0, 0.0}, {}};
                                           }),
                                 f.session->levelId(), Looking::north),
                        "a picture");
        f.waitForLoading();
        f.plan().fitAll();
        const QImage picture = f.plan().grab().toImage();
        const auto red = [&](double along, double up) {
            const QColor c = picture.pixelColor(f.plan().camera().toScreen(Vec2{along, up}).toPoint());
            return c.red() > c.green() + 40;
        };
        QVERIFY(red(-4.3, 9.3) && red(14.3, 0.7)); // 20 m wide and 10 m high
        QVERIFY(!red(-5.3, 5.3) && !red(15.7, 5.3) && !red(3.3, 10.8));
        f.plan().setFocus();
        QTest::keyPress(&f.plan(), Qt::Key_A);
        for (int i = 0; i < 60; ++i) {
            f.playback->tick(1.0 / 60.0);
        }
        QTest::keyRelease(&f.plan(), Qt::Key_A);
        QVERIFY(f.playback->feet().at.x < -1.0 && f.playback->feet().at.y == 0.0);
    }

    void contoursAreRefusedWithAReason()
    {
        Stage f;
        f.menu("Contours: the whole storey at once");
        QVERIFY(f.find<QLabel>("bannerText")->text().contains("from the side"));
        QVERIFY(!f.window->findChild<QAction*>("contoursOn")->isChecked());
    }

    /// What is on the right of the screen comes out at the right, also after one has turned to go left.
    void itIsHeardAsOnTheScreen()
    {
        Stage f;
        f.session->edit(withEmitter(f.session->project(), {"stage"}, {"r"}, [](Emitter& e) { e.muted = true; }), "quiet");
        f.playback->setListening(true);
        const auto sides = [&] {
            f.pass(0.5);
            const std::vector<float> sound = f.pass(0.3);
            double left = 0.0;
            double right = 0.0;
            for (std::size_t i = 0; i + 1 < sound.size(); i += 2) {
                left += sound[i] * sound[i];
                right += sound[i + 1] * sound[i + 1];
            }
            return 10.0 * std::log10(right / left);
        };
        QVERIFY(sides() > 6.0);
        f.playback->placeFeet({{0, 0, 0}, -90.0, 0, 0});
        QVERIFY(sides() > 6.0);
        f.playback->placeFeet({{9, 0, 0}, 90.0, 0, 0});
        QVERIFY(sides() < -6.0);
    }
};

} // namespace tst_side_on_window

STONE_TEST(tst_side_on_window, TestSideOnWindow)
#include "tst_side_on_window.moc"
