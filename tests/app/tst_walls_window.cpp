// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/bench_panel.h"
#include "app/bench/ledger_view.h"
#include "app/blind/blind_walk.h"
#include "app/eyes/eyes_view.h"
#include "app/shell/sheets.h"
#include "app/window_fixture.h"

#include "app/walls/walls_dialog.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <QCheckBox>
#include <QComboBox>
#include <QTableWidget>
#include <QTreeWidget>

#include <algorithm>
#include <cmath>

namespace tst_walls_window
{

using namespace stone;

namespace
{

/// A floor and a wall of a material between two heights, in the words of an OBJ file.
std::string yard(const Vec3& low, const Vec3& high, const std::string& material = "brick")
{
    Mesh mesh;
    fixture::addBox(mesh, {-20, -20, -0.3}, {20, 20, 0}, 1);
    fixture::addBox(mesh, low, high, 0);
    std::string text = "mtllib yard.mtl\n";
    for (const Vec3& p : mesh.points) {
        text += "v " + std::to_string(p.x) + ' ' + std::to_string(p.y) + ' ' + std::to_string(p.z) + '\n';
    }
    for (const Mesh::Triangle& t : mesh.triangles) {
        text += "usemtl " + (t.material == 0 ? material : std::string("stuff_7")) + "\nf";
        for (const std::uint32_t corner : t.corners) {
            text += ' ' + std::to_string(corner + 1);
        }
        text += '\n';
    }
    return text;
}

/// The tone of `oneTone` behind a wall: five metres ahead.
const std::string walled = R"({
  "stone_echo": 6, "name": "Walled yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 60}]}],
  "families": [{"id": "things", "name": "Things"}],
  "levels": [{"id": "yard", "geometry": {"file": "yard.obj", "up": "z"},
              "emitters": [{"id": "a", "name": "Lamp", "at": [0, 6, 1.6], "sound": "tone", "falloff": "yard", "family": "things"},
                           {"id": "b", "name": "Horn", "at": [-6, 0, 1.6], "sound": "tone", "falloff": "yard"}]}]
})";

/// The window over that yard.
struct Yard : WindowFixture {
    Yard()
    {
        write({-4, 3, 0}, {4, 3.3, 4});
        fixture::writeText(folder.filePath("yard.mtl").toStdString(), "newmtl brick\nnewmtl glass\nnewmtl stuff_7\n");
        fixture::writeText(path(), walled);
        start();
        QTRY_VERIFY(playback->hearing().occluder().active());
    }
    void write(const Vec3& low, const Vec3& high, const std::string& material = "brick")
    {
        fixture::writeText(folder.filePath("yard.obj").toStdString(), yard(low, high, material));
    }
    double wallsOf(std::size_t index) { return playback->heard()[index].screened.level_db(); }
    std::vector<float> pass(double seconds)
    {
        std::vector<float> out;
        for (double t = 0.0; t < seconds; t += 0.02) {
            const std::vector<float> more = clock->advance(playback->live(), 0.02);
            out.insert(out.end(), more.begin(), more.end());
            playback->tick(0.02);
        }
        return out;
    }
    void press(Qt::Key key) { QTest::keyClick(window.get(), key); }
    bool found(const std::string& code) const
    {
        return std::any_of(session->findings().begin(), session->findings().end(),
                           [&](const Finding& f) { return f.code == code; });
    }
};

} // namespace

/// Walls, gaze, flight and blind walks by mouse and keyboard.
class TestWallsWindow : public QObject
{
    Q_OBJECT

private slots:
    /// The Ledger's line opens by click and by key, and says what stands there and which ways lead round it.
    void theLedgersWallsOpen()
    {
        Yard f;
        f.session->selectOnly({"a"});
        auto* ledger = f.find<LedgerView>("ledger");
        QVERIFY(f.wallsOf(0) < -5.0 && f.wallsOf(1) > -0.01);
        auto* words = f.window->findChild<QLabel*>("wallsWords");
        QVERIFY(!words->isVisible());
        const auto line = ledger->placeOf(TermKind::walls);
        QVERIFY(line.has_value());
        QTest::mouseClick(ledger, Qt::LeftButton, Qt::NoModifier, *line);
        QVERIFY(words->isVisible());
        QVERIFY2(words->text().contains("0 of 9 rays are free") && words->text().contains("brick"), qPrintable(words->text()));
        QVERIFY(words->text().contains("A way round"));
        ledger->setFocus();
        QTest::keyClick(ledger, Qt::Key_Return);
        QVERIFY(!words->isVisible());
    }

    /// What is between is painted while rays are on, and gone by their key.
    void raysAreDrawnOnThePlan()
    {
        Yard f;
        f.session->selectOnly({"a"});
        f.plan().setFocus();
        const QImage with = f.plan().grab().toImage();
        f.press(Qt::Key_Y);
        QVERIFY(f.plan().grab().toImage() != with);
        f.press(Qt::Key_Y);
        QCOMPARE(f.plan().grab().toImage(), with);
    }

    /// A surface of which nothing is known is said so, and given a material by hand; one step of undo.
    void surfacesGetMaterials()
    {
        Yard f;
        QTRY_VERIFY(f.found("surface-unknown"));
        f.press(Qt::Key_M);
        auto* dialog = f.window->findChild<WallsDialog*>("wallsDialog");
        QVERIFY(dialog != nullptr && dialog->isVisible());
        auto* table = dialog->findChild<QTableWidget*>("surfaces");
        QCOMPARE(table->rowCount(), 2); // the floor is larger: it comes first
        QVERIFY(table->item(0, 0)->text() == "stuff_7" && table->item(0, 3)->text() == "nothing known");
        QVERIFY(table->item(1, 0)->text() == "brick" && table->item(1, 3)->text() == "rule");
        auto* choice = dialog->findChild<QComboBox*>("material1");
        const double brick = f.wallsOf(0);
        const int glass = choice->findText("Window glass, 6 mm");
        QVERIFY(glass > 0);
        choice->setFocus();
        QTest::keyClick(choice, Qt::Key_Home);
        while (choice->currentIndex() != glass) {
            QTest::keyClick(choice, Qt::Key_Down);
        }
        QCOMPARE(table->item(1, 3)->text(), QString("hand"));
        QVERIFY(f.wallsOf(0) > brick + 0.05);
        QVERIFY(f.session->undoName().contains("Surface brick is"));
        // Switched off, nothing stops anything.
        QTest::mouseClick(dialog->findChild<QCheckBox*>("occlusionOn"), Qt::LeftButton);
        QTRY_VERIFY(f.playback->heard()[0].screened.rays == 0);
        dialog->close();
    }

    /// The file changes while it plays: what is heard follows, what is now in a wall is a finding, and one click moves it out.
    void geometryIsReadAgainWhilePlaying()
    {
        Yard f;
        f.playback->setListening(true);
        f.pass(0.3);
        const double behind = f.wallsOf(0);
        QVERIFY(behind < -5.0);
        f.write({-4, 5, 0}, {4, 8, 4});
        QTRY_VERIFY_WITH_TIMEOUT(f.session->loadedLevel().mesh() != nullptr &&
                                     f.session->loadedLevel().mesh()->bounds()[0].x < -19.0 && f.found("emitter-in-wall"),
                                 5000);
        const auto& findings = f.session->findings();
        const auto finding =
            std::find_if(findings.begin(), findings.end(), [](const Finding& x) { return x.code == "emitter-in-wall"; });
        QVERIFY(finding->emitter == EmitterId{"a"} && !finding->remedies.empty());
        QCOMPARE(finding->remedies.back().label, std::string("Move it out"));
        f.session->edit(finding->remedies.back().apply(f.session->project()), "Move it out");
        QTRY_VERIFY(!f.found("emitter-in-wall"));
        QVERIFY(!f.session->loadedLevel().ground->insideSolid(f.emitter("a").at));
        // And away: everything placed is still there, nothing is in the way.
        f.write({14, 14, 0}, {15, 15, 4});
        QTRY_VERIFY_WITH_TIMEOUT((f.pass(0.05), f.playback->heard()[0].screened.free == f.playback->heard()[0].screened.rays),
                                 5000);
        const auto out = f.pass(0.5);
        QVERIFY(!out.empty() && f.level().emitters.size() == 2);
        // Damaged, the old one goes on.
        fixture::writeText(f.folder.filePath("yard.obj").toStdString(), "v 1 2\nf 1 2 3\n");
        QTRY_VERIFY_WITH_TIMEOUT(f.window->banner().message().contains("goes on as it was"), 5000);
        QVERIFY(f.level().emitters.size() == 2 && f.session->loadedLevel().mesh() != nullptr);
    }

    void gazesAreSetUpAndSwitchedOff()
    {
        Yard f;
        f.window->findChild<BenchPanel*>()->showGaze(true);
        QTest::mouseClick(f.find<QPushButton>("newGaze"), Qt::LeftButton);
        QCOMPARE(f.session->project().gazes.size(), std::size_t(1));
        // The horn is 90 degrees off: beyond the outer angle.
        QVERIFY(std::abs(f.playback->heard()[1].gazed.level_db + 9.0) < 1e-9);
        QCOMPARE(f.playback->heard()[0].gazed.level_db, 0.0);
        f.type("gazeRise", "0.5");
        QCOMPARE(f.session->project().gazes[0]->rise_s, 0.5);
        // For the family alone; then for the horn too; then the horn is exempt.
        auto* members = f.find<QTreeWidget>("gazeMembers");
        const auto tick = [&](int row, int column) {
            auto* item = members->topLevelItem(row);
            const QRect cell = members->visualItemRect(item);
            QTest::mouseClick(members->viewport(), Qt::LeftButton, Qt::NoModifier,
                              {members->columnViewportPosition(column) + 9, cell.center().y()});
        };
        tick(0, 1);
        QTRY_COMPARE(f.session->project().gazes[0]->families, std::vector<FamilyId>{{"things"}});
        QCOMPARE(f.playback->heard()[1].gazed.level_db, 0.0);
        tick(2, 1);
        QTRY_VERIFY(f.playback->heard()[1].gazed.level_db < -8.9);
        tick(2, 2);
        QTRY_COMPARE(f.session->project().gazes[0]->exempt, std::vector<EmitterId>{{"b"}});
        QVERIFY(f.session->project().gazes[0]->emitters.empty());
        // Z takes it away from the ears and leaves the document alone.
        f.playback->placeFeet({{0, 0, 0}, 180, 0, 0});
        QVERIFY(f.playback->heard()[0].gazed.level_db < -8.9);
        f.plan().setFocus();
        const auto document = f.session->document();
        f.press(Qt::Key_Z);
        QCOMPARE(f.playback->heard()[0].gazed.level_db, 0.0);
        QCOMPARE(f.session->document(), document);
        f.press(Qt::Key_Z);
        QVERIFY(f.playback->heard()[0].gazed.level_db < -8.9);
        QTest::mouseClick(f.find<QPushButton>("removeGaze"), Qt::LeftButton);
        QVERIFY(f.session->project().gazes.empty());
    }

    /// The ears fly over the wall and come back; the character stands, the engine's ears are where they are drawn, and
    /// nothing that is played breaks.
    void earsFlyAndComeBack()
    {
        Yard f;
        f.session->edit(withEmitter(f.session->project(), f.level().id, {"b"}, [](Emitter& e) { e.muted = true; }), "mute");
        f.playback->setListening(true);
        f.plan().setFocus();
        f.pass(0.4);
        f.press(Qt::Key_F4);
        QVERIFY(f.playback->flight() == Flight::ears);
        QTest::keyPress(&f.plan(), Qt::Key_PageUp);
        QTest::keyPress(&f.plan(), Qt::Key_W);
        std::vector<float> out = f.pass(4.0);
        QTest::keyRelease(&f.plan(), Qt::Key_PageUp);
        QTest::keyRelease(&f.plan(), Qt::Key_W);
        const Vec3 up = f.playback->ears().at;
        QVERIFY2(up.z > 4.0 && up.y > 3.0, qPrintable(QString("%1 %2").arg(up.y).arg(up.z)));
        QCOMPARE(f.playback->feet().at, Vec3(0, 0, 0));
        QVERIFY(f.wallsOf(0) > -1.0); // over the top there is nothing in between
        const double heard = f.playback->heard()[0].level_db;
        const auto there = f.pass(0.5);
        // The engine plays what is shown, a sine of 0.5.
        QVERIFY2(std::abs(fixture::energy_db(there, 0.2, 0.5) - (heard - 9.03)) < 0.3, qPrintable(QString::number(heard)));
        f.press(Qt::Key_F4);
        const auto back = f.pass(0.6);
        QVERIFY(f.playback->flight() == Flight::none && f.playback->ears() == f.playback->stance().ears);
        out.insert(out.end(), there.begin(), there.end());
        out.insert(out.end(), back.begin(), back.end());
        QVERIFY2(fixture::largestBreak(out, 0) < 0.002, qPrintable(QString::number(fixture::largestBreak(out, 0))));
    }

    /// An observer looks round and flies about; the ears hear what they heard.
    void eyesFlyAndTheEarsStay()
    {
        Yard f;
        f.plan().setFocus();
        const Pose ears = f.playback->ears();
        const double before = f.playback->heard()[0].level_db;
        f.press(Qt::Key_F5);
        QTest::keyPress(&f.plan(), Qt::Key_E);
        QTest::keyPress(&f.plan(), Qt::Key_W);
        for (int i = 0; i < 50; ++i) {
            f.playback->tick(0.02);
        }
        QTest::keyRelease(&f.plan(), Qt::Key_E);
        QTest::keyRelease(&f.plan(), Qt::Key_W);
        QVERIFY(glm::length(f.playback->eyes().at - ears.at) > 0.5 && f.playback->eyes().heading_deg > 60.0);
        QVERIFY(f.playback->ears() == ears && f.playback->feet().at == Vec3(0, 0, 0));
        QCOMPARE(f.playback->heard()[0].level_db, before);
        // A saved place ends it, as everything does that puts the character elsewhere.
        f.press(Qt::Key_0);
        QVERIFY(f.playback->flight() == Flight::none && f.playback->eyes() == f.playback->stance().camera);
    }

    /// Pitch and roll are typed: tipped to the right, what was ahead stays ahead, what was above comes from the left.
    void headsAreTippedByHand()
    {
        Yard f;
        f.window->findChild<BenchPanel*>()->showRig(true);
        f.type("headRoll", "90");
        QCOMPARE(f.playback->ears().roll_deg, 90.0);
        f.type("headHeading", "90");
        f.type("headRoll", "0");
        f.type("headPitch", "30");
        const Pose ears = f.playback->ears();
        QVERIFY(ears.heading_deg == 90.0 && ears.pitch_deg == 30.0 && ears.roll_deg == 0.0);
        QVERIFY(std::abs(std::abs(f.playback->heard()[1].bearing.azimuth_deg) - 180.0) < 0.1); // the horn is behind now
    }

    /// The ears are pulled along the line from the head to the camera.
    void earsArePulledTowardsTheCamera()
    {
        Yard f;
        Project next = f.session->project();
        next.rigs.put(
            {.id = {"above"}, .name = "Above", .kind = Rig::Kind::overShoulder, .distance_m = 10.0, .keptOutOfWalls = false});
        next.rig = {"above"};
        f.session->edit(next, "rig");
        f.playback->placeFeet({});
        QVERIFY(f.plan().placeOfEarsGrip().has_value());
        const QPointF head = f.plan().placeOfEars();
        const QPointF camera = f.plan().camera().toScreen(f.playback->stance().camera.at);
        WindowFixture::drag(&f.plan(), *f.plan().placeOfEarsGrip(), head + (camera - head) * 0.5);
        QVERIFY(std::abs(f.session->project().rigs[0]->ears - 0.5) <= 0.02);
        QVERIFY(f.session->undoName().contains("of the way to the camera"));
        f.playback->tick(0.02);
        QVERIFY(std::abs(glm::length(f.playback->ears().at - f.playback->stance().head.at) - 5.0) < 0.3);
        f.session->undo(); // one step
        QCOMPARE(f.session->project().rigs[0]->ears, 0.0);
    }

    /// Only a compass is left; walking into the wall is counted; afterwards the way is on the Plan.
    void blindWalk()
    {
        Yard f;
        f.plan().setFocus();
        const QImage before = f.plan().grab().toImage();
        f.press(Qt::Key_F8);
        auto* sheets = f.window->findChild<Sheets*>();
        auto* cover = f.window->findChild<QWidget*>("blindCover");
        QVERIFY(cover->isVisible() && !f.plan().isVisible());
        QTest::keyPress(cover, Qt::Key_W);
        for (int i = 0; i < 200; ++i) {
            f.playback->tick(0.02);
        }
        QTest::keyRelease(cover, Qt::Key_W);
        f.press(Qt::Key_F8);
        QVERIFY(!cover->isVisible() && f.plan().isVisible());
        const BlindWalk& walk = sheets->blindWalk();
        QVERIFY(walk.bumps().size() == 1 && walk.falls() == 0);
        // Up to the wall, a body's breadth off it.
        QVERIFY2(std::abs(walk.metres() - 2.75) < 0.1, qPrintable(QString::number(walk.metres())));
        QVERIFY(walk.words().contains("one bump"));
        f.playback->placeFeet({});
        QVERIFY(f.plan().grab().toImage() != before);
    }

    /// Without OpenGL the Plan stays and says why.
    void withoutOpenGlThePlanStays()
    {
        Yard f;
        f.press(Qt::Key_F3);
        if (EyesView::available()) {
            QSKIP("there is OpenGL here; see tst_eyes");
        }
        QVERIFY(f.plan().isVisible() && f.window->findChild<EyesView*>() == nullptr);
        QVERIFY(f.window->banner().message().contains("OpenGL"));
    }
};

} // namespace tst_walls_window

STONE_TEST(tst_walls_window, TestWallsWindow)
#include "tst_walls_window.moc"
