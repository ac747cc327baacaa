// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"

#include "app/rooms/decay_graph.h"
#include "app/rooms/opening_page.h"
#include "app/rooms/room_page.h"
#include "support/one_of_many.h"

#include <cmath>

namespace tst_rooms_window
{

using namespace stone;

namespace
{

/// A tone in a room of 8 x 8 x 4 m, whose middle is where the character stands.
const std::string inARoom = R"({
  "stone_echo": 8, "name": "Hall",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 1, "silent_at_m": 60}]}],
  "game_values": [{"id": "gate", "name": "Gate", "rest": 0.25}],
  "signals": [{"id": "bell", "name": "Bell"}],
  "levels": [{"id": "hall",
              "rooms": [{"id": "hall", "name": "Hall", "shape": {"is": "box", "size_m": [8, 8, 4]}},
                        {"id": "next", "name": "Next door", "at": [8.2, 0, 0], "shape": {"is": "box", "size_m": [8, 8, 4]}}],
              "emitters": [{"id": "a", "name": "Lamp", "at": [0, 3, 1.6], "sound": "tone", "falloff": "yard"}]}]
})";

} // namespace

/// Rooms and openings drawn, set up and heard by mouse and keyboard.
class TestRoomsWindow : public QObject
{
    Q_OBJECT

private:
    static double reverb_db(WindowFixture& f)
    {
        const auto& heard = f.playback->roomsHeard();
        return heard.empty() ? -300.0 : heard[0].level_db;
    }
    static const Room& room(WindowFixture& f, const char* id) { return *f.level().rooms.find({id}); }

private slots:
    /// A room is chosen in the list, its decay pulled on the graph while it plays, by mouse and by key; each drag is one step.
    void aDecayIsPulled()
    {
        WindowFixture f(inARoom);
        f.session->selectThing<Room>({"hall"});
        auto* graph = f.find<DecayGraph>("decayGraph");
        QVERIFY(graph->isVisible());
        f.playback->setListening(true);
        f.pass(0.5);
        const double before = reverb_db(f);
        QVERIFY(before > -60.0);
        WindowFixture::drag(graph, graph->placeOf(4), graph->placeOf(4) + QPointF(0, -40));
        QVERIFY2(room(f, "hall").reverb.rt60_s[4] > 2.0, qPrintable(QString::number(room(f, "hall").reverb.rt60_s[4])));
        QVERIFY(f.session->undoName().contains("RT60") && f.session->undoName().contains("1k"));
        f.pass(0.2);
        QVERIFY(reverb_db(f) > before + 3.0); // the longer it rings, the louder
        f.session->undo();
        QCOMPARE(room(f, "hall").reverb.rt60_s[4], 0.85);
        graph->setFocus();
        QTest::keyClick(graph, Qt::Key_Right);
        QTest::keyClick(graph, Qt::Key_Up);
        QVERIFY(room(f, "hall").reverb.rt60_s[5] > 0.8);
        f.type("reverbLevel", "-12");
        f.type("reverbBegins", "40");
        f.type("reverbWidth", "50");
        const Reverb& reverb = room(f, "hall").reverb;
        QCOMPARE(reverb.late_db, -12.0);
        QCOMPARE(reverb.preDelay_ms, 40.0);
        QCOMPARE(reverb.width, 0.5);
        f.choose("reverbPoint", "Tiled passage");
        QTRY_COMPARE(room(f, "hall").reverb.rt60_s, reverbPoints()[2].reverb.rt60_s);
        // What all this did to the sound broke nothing.
        const auto out = f.pass(0.6);
        QVERIFY2(fixture::largestBreak(out, 0) < 0.01, qPrintable(QString::number(fixture::largestBreak(out, 0))));
    }

    /// F9 takes all reverb from the ears and leaves the document alone.
    void reverbIsSwitchedOffByKey()
    {
        WindowFixture f(inARoom);
        f.plan().setFocus();
        QVERIFY(reverb_db(f) > -60.0);
        const auto document = f.session->document();
        QTest::keyClick(f.window.get(), Qt::Key_F9);
        QVERIFY(reverb_db(f) < -200.0);
        QCOMPARE(f.session->document(), document);
        QTest::keyClick(f.window.get(), Qt::Key_F9);
        QVERIFY(reverb_db(f) > -60.0);
    }

    /// An opening by two clicks; its end dragged; half open; following a game value.
    void anOpeningIsDrawn()
    {
        WindowFixture f(inARoom);
        const auto at = [&](double x, double y) { return f.plan().camera().toScreen(Vec3{x, y, 0}); };
        f.menu("Opening");
        f.click(at(4.1, -0.5));
        f.click(at(4.1, 0.5));
        QCOMPARE(f.level().openings.size(), std::size_t(1));
        const auto opening = [&] { return *f.level().openings[0]; };
        QVERIFY(std::abs(opening().from.x - 4.1) < 0.1 && std::abs(opening().to.y - 0.5) < 0.1);
        QVERIFY(f.find<QLabel>("openingJoins")->text().contains("Hall and Next door") ||
                f.find<QLabel>("openingJoins")->text().contains("Next door and Hall"));
        WindowFixture::drag(&f.plan(), f.plan().placeOfOpeningEnd(1), at(4.1, 1.5));
        QVERIFY2(std::abs(opening().to.y - 1.5) < 0.1, qPrintable(QString::number(opening().to.y)));
        f.type("openingOpen", "50");
        QCOMPARE(opening().open, 0.5);
        f.choose("openingOpensOn", "Bell");
        QCOMPARE(opening().opensOn, SignalId{"bell"});
        f.type("openingSwing", "1.5");
        QCOMPARE(opening().swing_s, 1.5);
        f.choose("openingFollows", "Gate");
        QCOMPARE(opening().follows, GameValueId{"gate"});
        QVERIFY(!f.find<QWidget>("openingOpen")->isEnabled());
        // The neighbour is heard through it now, and listed.
        const auto& heard = f.playback->roomsHeard();
        QCOMPARE(heard.size(), std::size_t(2));
        // Selected by a click, deleted by a key, back by undo.
        f.session->selectNone();
        f.click((at(4.1, -0.5) + at(4.1, 1.5)) / 2.0);
        QVERIFY(f.session->selected<Opening>() != nullptr);
        QTest::keyClick(f.window.get(), Qt::Key_Delete);
        QVERIFY(f.level().openings.empty());
        f.session->undo();
        QCOMPARE(f.level().openings.size(), std::size_t(1));
    }

    /// What one clicks into is selected: the smallest first, with each click the next larger, then nothing; beside a wall the
    /// room.
    void spacesAreSelectedByAClickIntoThem()
    {
        WindowFixture f(R"({"sounds": [{"id": "tone", "file": "tone.wav"}],
                            "levels": [{"id": "l", "emitters": [{"id": "a", "name": "Lamp", "at": [14, 14, 1.6], "sound": "tone"}],
                                        "zones": [{"id": "yard", "name": "Yard", "at": [0, 0, 0],
                                                   "shape": {"is": "box", "size_m": [24, 24, 3]}}],
                                        "rooms": [{"id": "hall", "name": "Hall", "at": [2, 2, 0],
                                                   "shape": {"is": "box", "size_m": [16, 16, 3]}},
                                                  {"id": "closet", "name": "Closet", "at": [4, 4, 0],
                                                   "shape": {"is": "box", "size_m": [4, 4, 3]}}]}]})");
        f.plan().fitAll();
        const auto at = [&](double x, double y) { return f.plan().camera().toScreen(Vec2{x, y}); };
        const auto selected = [&] {
            const Room* room = f.session->selected<Room>();
            const Zone* zone = f.session->selected<Zone>();
            return QString::fromStdString(room != nullptr ? room->name : zone != nullptr ? zone->name : "");
        };
        for (const char* name : {"Closet", "Hall", "Yard", "", "Closet"}) {
            f.click(at(4.5, 4.5));
            QCOMPARE(selected(), QString(name));
        }
        f.click(at(-4.0, 8.0));
        QCOMPARE(selected(), QString("Hall"));
        f.click(at(-10.0, -10.0));
        QCOMPARE(selected(), QString("Yard"));
        // So near that nothing of the yard's edge is seen it is the ground.
        f.session->selectNone();
        f.plan().zoomBy(40.0);
        f.plan().repaint();
        f.click(QPointF(f.plan().width() / 2.0 + 90.0, f.plan().height() / 2.0 + 90.0));
        QCOMPARE(selected(), QString());
    }

    /// A room is made, pulled by its grips, fitted to nothing, and deleted.
    void aRoomIsMadeAndPulled()
    {
        WindowFixture f(oneTone);
        f.menu("Room");
        QCOMPARE(f.level().rooms.size(), std::size_t(1));
        QVERIFY(f.window->findChild<RoomPage*>("roomPage")->isVisible());
        const double width = Solid(f.level().rooms[0]->shape, {}).box()[1].x;
        const QPointF corner = f.plan().placeOfGrip(ShapeGrip::Kind::corner, 0);
        WindowFixture::drag(&f.plan(), corner, corner + QPointF(-30, 30));
        QVERIFY(Solid(f.level().rooms[0]->shape, {}).volume_m3() > 2.0 * width * 6.0 * 3.0);
        QVERIFY(f.find<QLabel>("roomSurvey")->text().contains("no geometry"));
        QTest::keyClick(&f.plan(), Qt::Key_Delete);
        QVERIFY(f.level().rooms.empty());
    }

    /// What the level suggests is taken over by one click.
    void whatTheLevelSuggestsIsTaken()
    {
        WindowFixture f({}, false);
        f.window->openProject(DEMO);
        f.waitForLoading();
        f.session->selectThing<Room>({"underpass"});
        auto* take = f.find<QPushButton>("takeSuggested");
        QTRY_VERIFY_WITH_TIMEOUT(take->isEnabled(), 10000);
        QVERIFY2(f.find<QLabel>("roomSurvey")->text().contains("tiles"), qPrintable(f.find<QLabel>("roomSurvey")->text()));
        const BandValues before = f.level().rooms.find({"underpass"})->reverb.rt60_s;
        QTest::mouseClick(take, Qt::LeftButton);
        QVERIFY(f.level().rooms.find({"underpass"})->reverb.rt60_s != before);
        QVERIFY(f.session->undoName().contains("as the level suggests"));
    }
};

} // namespace tst_rooms_window

STONE_TEST(tst_rooms_window, TestRoomsWindow)
#include "tst_rooms_window.moc"
