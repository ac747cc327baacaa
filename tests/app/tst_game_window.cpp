// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/game/game_dialog.h"
#include "app/game/game_strip.h"
#include "app/window_fixture.h"
#include "game/game_window.h"
#include "game/walk_along.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

using namespace stone;

namespace
{

const std::string yard = R"({
  "name": "Test yard",
  "signals": [{"id": "bell", "name": "Bell rings"}],
  "game_values": [{"id": "wind", "name": "Wind", "smoothing_s": 0.0}],
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 40}]}],
  "patterns": [{"id": "tram", "name": "Tram", "sound": "tone", "falloff": "yard"}],
  "levels": [{"id": "yard", "name": "Yard",
    "emitters": [{"id": "a", "name": "Lamp", "at": [0, 5, 1.6], "sound": "tone", "falloff": "yard"},
                 {"id": "b", "name": "Horn", "at": [2, 0, 1.6], "sound": "tone", "falloff": "yard",
                  "starting": {"starts": [{"on": "signal", "signal": "bell"}]}}],
    "openings": [{"id": "d", "name": "Door", "from": [0, 3], "to": [1, 3], "open": 0}],
    "walks": [{"id": "w", "name": "Across", "points": [{"t_s": 0, "at": [-2, 0, 0]}, {"t_s": 0.5, "at": [2, 0, 0]}],
               "events": [{"t_s": 0.2, "is": "signal", "signal": "bell"}]}]},
    {"id": "cellar", "name": "Cellar"}]})";

/// A port that nobody has, as far as one can know.
int freePort()
{
    return GameLink(std::make_shared<Follower>(), 0, false).port();
}

struct Both : WindowFixture {
    int port = freePort();
    std::unique_ptr<game::GameWindow> gameWindow;

    Both() : WindowFixture(yard)
    {
        start();
        menu("Listen along to a game…");
        type("gamePort", QString::number(port));
        find<QPushButton>("gameBegin")->click();
    }
    ~Both() { gameWindow.reset(); }

    game::GameWindow& openGame()
    {
        gameWindow = std::make_unique<game::GameWindow>(session->document(), session->level(), nullptr, "127.0.0.1", port);
        gameWindow->QWidget::show();
        return *gameWindow;
    }

    /// What was told arrives, and is played.
    void settle()
    {
        for (int i = 0; i < 15; ++i) {
            QTest::qWait(20);
            pass(0.02);
        }
    }

    const Heard* heard(const std::string& name) const
    {
        const Level& shown = playback->hearing().level();
        const auto& all = playback->heard();
        const auto found =
            std::find_if(all.begin(), all.end(), [&](const Heard& one) { return shown.emitters[one.index]->name == name; });
        return found != all.end() ? &*found : nullptr;
    }
};

} // namespace

/// A game beside the window: what one does in the one is heard in the other.
class TestGameWindow : public QObject
{
    Q_OBJECT

private slots:
    void itBeginsAndEnds()
    {
        Both f;
        auto* strip = f.find<GameStrip>("gameStrip");
        QVERIFY(strip->isVisible());
        QVERIFY2(f.find<QLabel>("gameWords")->text().contains("no game tells anything"),
                 qPrintable(f.find<QLabel>("gameWords")->text()));
        QVERIFY(f.playback->listening());
        QVERIFY(f.playback->follows());
        QVERIFY(!f.find<NumberField>("gamePort")->isEnabled());
        // A second one cannot have the port.
        try {
            GameLink other(std::make_shared<Follower>(), f.port, false);
            QFAIL("had twice");
        } catch (const std::exception&) {
        }
        f.find<QPushButton>("gameEnd")->click();
        QVERIFY(!strip->isVisible());
        QVERIFY(!f.playback->follows());
        QVERIFY(f.find<NumberField>("gamePort")->isEnabled());
        // Where somebody else has the port, that is said, and nothing begins.
        const GameLink other(std::make_shared<Follower>(), f.port, false);
        f.find<QPushButton>("gameBegin")->click();
        QVERIFY2(f.find<QLabel>("gameState")->text().contains("choose another one"),
                 qPrintable(f.find<QLabel>("gameState")->text()));
        QVERIFY(!strip->isVisible());
    }

    void theCharacterGoesWhereTheGameSays()
    {
        Both f;
        game::GameWindow& game = f.openGame();
        QTest::keyPress(&game, Qt::Key_W);
        for (int i = 0; i < 60; ++i) {
            game.pass(1.0 / 60.0);
            f.pass(1.0 / 60.0);
            QTest::qWait(4);
        }
        QTest::keyRelease(&game, Qt::Key_W);
        game.pass(0.02);
        QVERIFY(game.feet().at.y > 1.0);
        f.settle();
        QVERIFY2(glm::length(f.playback->feet().at - game.feet().at) < 0.02,
                 qPrintable(QString("%1 %2").arg(f.playback->feet().at.y).arg(game.feet().at.y)));
        QVERIFY(f.find<QLabel>("gameWords")->text().contains("messages a second"));
        // Keys of the window do not move it meanwhile; afterwards it stands where it was.
        QTest::keyClick(&f.plan(), Qt::Key_S);
        f.settle();
        QVERIFY(glm::length(f.playback->feet().at - game.feet().at) < 0.02);
        const Vec3 there = f.playback->feet().at;
        f.gameWindow.reset();
        f.find<QPushButton>("gameEnd")->click();
        f.pass(0.2);
        QVERIFY(glm::length(f.playback->feet().at - there) < 0.02);
    }

    void thingsThatAppearAreHeardAndNotKept()
    {
        Both f;
        const auto document = f.session->document();
        game::GameWindow& game = f.openGame();
        game.pass(0.02);
        f.settle();
        QVERIFY(f.heard("Tram 1") == nullptr);
        game.findChild<QPushButton*>("putThing")->click();
        game.pass(0.02);
        f.settle();
        QVERIFY(f.heard("Tram 1") != nullptr);
        QVERIFY(f.heard("Tram 1")->level_db > -6.0); // two metres ahead
        // It goes on its way, and is heard there.
        for (int i = 0; i < 40; ++i) {
            game.pass(0.05);
        }
        f.settle();
        QVERIFY(f.heard("Tram 1")->bearing.distance_m > 3.0);
        QVERIFY(f.session->document() == document);
        QVERIFY(f.session->undoName().isEmpty());
        game.findChild<QPushButton*>("takeThing")->click();
        f.settle();
        QVERIFY(f.heard("Tram 1") == nullptr);
        QVERIFY(f.session->document() == document);
    }

    void signalsAndDoorsArrive()
    {
        Both f;
        game::GameWindow& game = f.openGame();
        game.pass(0.02);
        f.settle();
        QVERIFY(f.playback->world()->starts.empty());
        for (QPushButton* button : game.findChildren<QPushButton*>()) {
            if (button->text() == "Bell rings") {
                button->click();
            }
        }
        auto* sheet = game.findChild<game::LevelSheet*>("levelSheet");
        emit sheet->doorClicked({"d"});
        for (int i = 0; i < 60; ++i) {
            game.pass(1.0 / 60.0);
        }
        f.settle();
        QCOMPARE(f.playback->world()->starts.size(), std::size_t{1});
        QCOMPARE(f.playback->hearing().world().openShare(f.playback->moment(), 0), 1.0);
    }

    void whatIsChangedHereIsToldThere()
    {
        Both f;
        game::GameWindow& game = f.openGame();
        game.pass(0.02);
        f.settle();
        game.pass(0.02);
        QVERIFY2(game.findChild<QLabel*>("gameState")->text().contains("listens along"),
                 qPrintable(game.findChild<QLabel*>("gameState")->text()));
        QVERIFY(game.findChild<QLabel*>("gameHeard")->text().contains("Lamp"));
        f.session->edit(withEmitter(f.session->project(), {"yard"}, {"a"}, [](Emitter& e) { e.level_db = -6.0; }), "Level");
        f.settle();
        game.pass(0.02);
        QVERIFY2(game.findChild<QLabel*>("gameState")->text().contains("emitter Lamp level_db -6"),
                 qPrintable(game.findChild<QLabel*>("gameState")->text()));
    }

    void namesThatAreNotHereAreListed()
    {
        Both f;
        GameSender sender("127.0.0.1", f.port);
        for (int i = 0; i < 3; ++i) {
            sender.send(writeOsc(messageOf({.kind = GameWord::Kind::signal, .name = "Gong"})));
        }
        sender.send(writeOsc({"/stone/ears", {1.0}}));
        f.settle();
        auto* list = f.find<QTableWidget>("gameUnknown");
        QCOMPARE(list->rowCount(), 1);
        QCOMPARE(list->item(0, 1)->text(), QString("Gong"));
        QCOMPARE(list->item(0, 2)->text(), QString("3 times"));
        QVERIFY2(f.find<QLabel>("gameWrong")->text().contains("x y z heading pitch roll"),
                 qPrintable(f.find<QLabel>("gameWrong")->text()));
    }

    void theLevelIsThatOfTheGame()
    {
        Both f;
        GameSender sender("127.0.0.1", f.port);
        sender.send(writeOsc(messageOf({.kind = GameWord::Kind::level, .name = "Cellar"})));
        f.settle();
        QCOMPARE(f.session->level().id.text, std::string("cellar"));
        sender.send(writeOsc(messageOf({.kind = GameWord::Kind::level, .name = "Attic"})));
        f.settle();
        QCOMPARE(f.session->level().id.text, std::string("cellar"));
    }

    /// Without a window: along a walk, with what happens on it.
    void aWalkIsToldWithoutAWindow()
    {
        Both f;
        const Project project = f.session->project();
        {
            game::Teller teller("127.0.0.1", f.port, project, *project.levels[0]);
            QVERIFY(game::walkAlong(teller, *project.levels[0]->walks[0], 60.0, [&] {
                f.pass(1.0 / 60.0);
                QCoreApplication::processEvents();
                return false;
            }));
            f.settle();
            QVERIFY(glm::length(f.playback->feet().at - Vec3{2, 0, 0}) < 0.05);
            QCOMPARE(f.playback->world()->starts.size(), std::size_t{1});
            QVERIFY(!game::walkAlong(teller, *project.levels[0]->walks[0], 60.0, [] { return true; }));
        }
        f.settle();
        QVERIFY(f.find<QLabel>("gameState")->text().contains("No game said hello"));
    }
};

QTEST_MAIN(TestGameWindow)
#include "tst_game_window.moc"
