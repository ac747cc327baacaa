// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/theme/theme.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <cmath>

namespace tst_session
{

using namespace stone;

/// The open project behind the window: files, levels, sounds and what playing does with them.
class TestSession : public QObject
{
    Q_OBJECT

    static void write(const QTemporaryDir& folder, const std::string& document)
    {
        fixture::writeTone(folder.filePath("tone.wav").toStdString(), 480.0, 0.5);
        fixture::writeText(folder.filePath("project.json").toStdString(), document);
    }

    /// A session with its playback over a document, on a clock moved by hand.
    struct Desk {
        explicit Desk(const QTemporaryDir& folder) { session.open(folder.path().toStdString()); }
        void settle()
        {
            QTRY_VERIFY(!session.loadingLevel());
            QTRY_COMPARE(session.bank().pending(), std::size_t{0});
            QCoreApplication::processEvents();
        }
        Session session{48'000};
        HandClock* clock = nullptr;
        Playback playback{session, [this](const QString&, int rate, unsigned) {
                              auto made = std::make_unique<HandClock>(rate, 128);
                              clock = made.get();
                              return made;
                          }};
    };

private slots:
    void initTestCase() { stone::theme::apply(*qApp); }

    void levelsShareSoundsAndFalloffs()
    {
        QTemporaryDir folder;
        write(folder,
              R"({"sounds": [{"id": "tone", "file": "tone.wav"}], "falloffs": [{"id": "f", "lanes": [{"reference_m": 3}]}],
            "levels": [{"id": "one", "emitters": [{"id": "a", "sound": "tone", "falloff": "f", "at": [0, 3, 1.6]}]},
                       {"id": "two", "metres_per_unit": 0.5, "emitters": [{"id": "a", "sound": "tone", "falloff": "f", "at": [0, 12, 1.6]}]}]})");
        Desk desk(folder);
        desk.settle();
        const auto levelAtEars = [&] { return desk.playback.hearing().hearOne(desk.playback.ears(), {}, 0).level_db; };
        QVERIFY(std::abs(levelAtEars()) < 1e-9);
        QSignalSpy shown(&desk.session, &Session::levelChanged);
        desk.session.showLevel({"two"});
        QVERIFY(!shown.isEmpty());
        QCOMPARE(desk.session.level().metresPerUnit, 0.5);
        QVERIFY(std::abs(levelAtEars() + 20.0 * std::log10(4.0)) < 1e-9);
        // The shared falloff, changed here, is changed there.
        desk.session.selectOnly({"a"});
        Falloff falloff = falloffOf(desk.session.project(), *desk.session.primary());
        falloff.lanes.front().formula.reference_m = 12.0;
        desk.session.edit(withFalloff(desk.session.project(), {"two"}, {"a"}, falloff), "wider");
        QVERIFY(std::abs(levelAtEars()) < 1e-9);
        desk.session.showLevel({"one"});
        QVERIFY(std::abs(levelAtEars()) < 1e-9);
        QCOMPARE(usersOf(desk.session.project(), {"f"}), 2);
        // Undoing what was done in a level that is not shown works all the same.
        desk.session.undo();
        QCOMPARE(desk.session.project().falloffs[0]->lanes.front().formula.reference_m, 3.0);
        QVERIFY(!desk.session.changed());
    }

    void undoingAnAddedLevelShowsAnotherOne()
    {
        QTemporaryDir folder;
        write(folder, "{}");
        Desk desk(folder);
        Project next = desk.session.project();
        Level extra = *blankProject().levels[0];
        extra.id = {"extra"};
        next.levels.put(extra);
        desk.session.edit(next, "Add a level");
        desk.session.showLevel({"extra"});
        QCOMPARE(desk.session.level().id.text, std::string("extra"));
        desk.session.undo();
        QVERIFY(desk.session.level().id.text != "extra");
        QCOMPARE(desk.session.levelId().text, desk.session.level().id.text);
    }

    void savingElsewhereTakesTheFilesAlong()
    {
        QTemporaryDir folder;
        QDir().mkpath(folder.filePath("sounds"));
        fixture::writeTone(folder.filePath("sounds/deep.wav").toStdString(), 100.0, 0.2);
        QFile::copy(QString(DEMO) + "/level/vellmoor-halt.glb", folder.filePath("level.glb"));
        write(
            folder,
            R"({"sounds": [{"id": "a", "file": "tone.wav"}, {"id": "b", "file": "sounds/deep.wav"}, {"id": "c", "file": "gone.wav"}],
            "levels": [{"geometry": {"file": "level.glb"}}]})");
        QTemporaryDir elsewhere;
        {
            Desk desk(folder);
            desk.settle();
            desk.session.saveAs(elsewhere.filePath("copy/project.json").toStdString());
            QVERIFY(!desk.session.changed());
        }
        for (const char* file : {"copy/project.json", "copy/tone.wav", "copy/sounds/deep.wav", "copy/level.glb"}) {
            QVERIFY2(QFile::exists(elsewhere.filePath(file)), file);
        }
        Session again(48'000);
        again.open(elsewhere.filePath("copy").toStdString());
        QTRY_VERIFY(!again.loadingLevel());
        QVERIFY(again.loadedLevel().mesh() != nullptr);
        QCOMPARE(again.project().sounds[2]->files.front().file, std::string("gone.wav")); // what is missing keeps its name
        QTRY_COMPARE(again.soundEntry(*again.project().sounds[1]).state, SoundBank::State::ready);
    }

    void soundsFromElsewhereAreCopiedOnceEach()
    {
        QTemporaryDir folder;
        write(folder, "{}");
        QTemporaryDir elsewhere;
        fixture::writeTone(elsewhere.filePath("bell.wav").toStdString(), 700.0, 0.1);
        Desk desk(folder);
        QDir(elsewhere.path()).mkdir("other");
        fixture::writeTone(elsewhere.filePath("other/bell.wav").toStdString(), 900.0, 0.1);
        desk.session.addSounds(
            {elsewhere.filePath("bell.wav"), elsewhere.filePath("other/bell.wav"), folder.filePath("tone.wav")});
        QCOMPARE(desk.session.project().sounds.size(), std::size_t{3});
        QCOMPARE(desk.session.project().sounds[0]->files.front().file, std::string("sounds/bell.wav"));
        QCOMPARE(desk.session.project().sounds[1]->files.front().file,
                 std::string("sounds/bell-2.wav")); // nothing is overwritten
        QCOMPARE(desk.session.project().sounds[2]->files.front().file,
                 std::string("tone.wav")); // inside already: stays where it is
        QVERIFY(desk.session.project().sounds[0]->id != desk.session.project().sounds[1]->id);
        QCOMPARE(desk.session.undoName(), QString("Add 3 sounds"));
        desk.session.undo();
        QVERIFY(desk.session.project().sounds.empty());
    }

    void aPictureOfKnownWidthLiesUnderTheSheet()
    {
        QTemporaryDir folder;
        QImage picture(200, 100, QImage::Format_RGB32);
        picture.fill(Qt::red);
        picture.save(folder.filePath("yard.png"));
        write(folder, R"({"levels": [{"geometry": {"picture": "yard.png", "width_m": 40, "at": [-20, -10]}}]})");
        Desk desk(folder);
        PlanView plan(desk.session, desk.playback);
        plan.resize(600, 400);
        desk.settle();
        plan.fitAll();
        const QImage shown = plan.grab().toImage();
        const auto reddish = [&](const Vec2& p) {
            const QColor c = shown.pixelColor(plan.camera().toScreen(p).toPoint());
            return c.red() > c.green() + 60;
        };
        QVERIFY(reddish({-19, -9}) && reddish({19, 9}) && reddish({-19, 7}));
        QVERIFY(!reddish({21, 0}) && !reddish({0, 11}) && !reddish({0, -11}));
    }

    /// A few bytes that say they are 20 000 pixels wide and high would fill more than a gigabyte.
    void aPictureThatUnpacksIntoTooMuchIsRefused()
    {
        QTemporaryDir folder;
        const QByteArray bytes = QByteArray::fromHex("89504e470d0a1a0a0000000d4948445200004e2000004e2008020000006c12d16e"
                                                     "0000001149444154789c63601805a360140c77000003e80001b3a6d346");
        fixture::writeText(folder.filePath("huge.png").toStdString(), bytes.toStdString());
        write(folder, R"({"levels": [{"geometry": {"picture": "huge.png", "width_m": 40, "at": [-20, -10]}}]})");
        Desk desk(folder);
        desk.settle();
        QVERIFY(desk.session.loadedLevel().picture.isNull());
        const QString said = QString::fromStdString(desk.session.loadedLevel().error);
        QVERIFY2(said.contains("huge.png") && said.contains("32 million pixels") && said.contains("smaller"), qPrintable(said));
    }

    void placesAndWalksOfAnotherProjectAreForgotten()
    {
        QTemporaryDir folder;
        write(folder, oneTone);
        QTemporaryDir other;
        write(other, R"({"levels": [{"character": {"at": [7, 8, 0], "heading_deg": 45}}]})");
        Desk desk(folder);
        QCOMPARE(desk.playback.walk().text, std::string("w"));
        desk.playback.seekWalk(2.0);
        QVERIFY(std::abs(desk.playback.feet().at.x) < 1e-9);
        desk.session.open(other.path().toStdString());
        QVERIFY(desk.playback.walk().empty());
        QCOMPARE(desk.playback.feet().at.x, 7.0);
        QCOMPARE(desk.playback.feet().heading_deg, 45.0);
    }

    void deletingWhatPlaysSilencesIt()
    {
        QTemporaryDir folder;
        write(folder, oneTone);
        Desk desk(folder);
        desk.settle();
        desk.playback.setListening(true);
        desk.clock->advance(desk.playback.live(), 0.3);
        QVERIFY(fixture::energy_db(desk.clock->advance(desk.playback.live(), 0.2), 0, 0.2) > -40.0);
        desk.session.selectOnly({"a"});
        desk.session.deleteSelected();
        QVERIFY(desk.session.primary() == nullptr);
        desk.clock->advance(desk.playback.live(), 0.2);
        QVERIFY(fixture::energy_db(desk.clock->advance(desk.playback.live(), 0.2), 0, 0.2) < -200.0);
        desk.session.undo();
        desk.clock->advance(desk.playback.live(), 0.3);
        QVERIFY(fixture::energy_db(desk.clock->advance(desk.playback.live(), 0.2), 0, 0.2) > -40.0);
    }

    void aSoundThatArrivesLateJoinsInTime()
    {
        // A project that is heard while its sounds are still being read: silent first, then there.
        QTemporaryDir folder;
        write(folder, oneTone);
        Desk desk(folder);
        desk.playback.setListening(true);
        desk.clock->advance(desk.playback.live(), 0.2);
        desk.settle();
        desk.clock->advance(desk.playback.live(), 0.1);
        const auto heard = desk.clock->advance(desk.playback.live(), 0.3);
        QVERIFY(fixture::energy_db(heard, 0, 0.3) > -40.0);
        QVERIFY(fixture::largestBreak(heard, 0) < 0.01);
    }

    void theMonitorLevelChangesNothingInTheProject()
    {
        QTemporaryDir folder;
        write(folder, oneTone);
        Desk desk(folder);
        desk.settle();
        desk.playback.setListening(true);
        desk.clock->advance(desk.playback.live(), 0.3);
        const double before = fixture::energy_db(desk.clock->advance(desk.playback.live(), 0.2), 0, 0.2);
        desk.playback.setMonitor_db(-12.0);
        desk.clock->advance(desk.playback.live(), 0.3);
        const double after = fixture::energy_db(desk.clock->advance(desk.playback.live(), 0.2), 0, 0.2);
        QVERIFY(std::abs(before - after - 12.0) < 0.05);
        QVERIFY(!desk.session.changed());
        QVERIFY(std::abs(desk.playback.hearing().hearOne(desk.playback.ears(), {}, 0).level_db + 20.0 * std::log10(2.5)) <
                1e-6);
    }

    void listeningAgainStartsFromTheBeginning()
    {
        QTemporaryDir folder;
        write(
            folder,
            R"({"sounds": [{"id": "t", "file": "tone.wav", "loop": false}], "emitters": [{"sound": "t", "at": [0, 1, 1.6]}]})");
        Desk desk(folder);
        desk.settle();
        for (int round = 0; round < 3; ++round) {
            desk.playback.setListening(true);
            const auto heard = desk.clock->advance(desk.playback.live(), 1.0);
            QVERIFY2(fixture::energy_db(heard, 0.1, 0.4) > -12.0, qPrintable(QString::number(round)));
            QVERIFY(fixture::energy_db(heard, 0.6, 1.0) < -200.0); // played once, half a second
            desk.playback.setListening(false);
        }
        desk.playback.setListening(true);
        desk.clock->advance(desk.playback.live(), 0.8);
        desk.playback.restart();
        QVERIFY(fixture::energy_db(desk.clock->advance(desk.playback.live(), 0.4), 0.1, 0.4) > -12.0);
    }

    void movingManyIsOneStep()
    {
        QTemporaryDir folder;
        write(folder, R"({"emitters": [{"id": "a"}, {"id": "b", "at": [1, 1]}, {"id": "c", "at": [2, 2]}]})");
        Desk desk(folder);
        desk.session.select({{"a"}, {"c"}}, {"c"});
        desk.session.moveSelected({1, 0, 0}, "drag 7");
        desk.session.moveSelected({1, 0, 0}, "drag 7");
        desk.session.endGesture();
        QCOMPARE(desk.session.undoName(), QString("Move 2 emitters"));
        QCOMPARE(desk.session.level().emitters.find({"a"})->at.x, 2.0);
        QCOMPARE(desk.session.level().emitters.find({"b"})->at.x, 1.0);
        desk.session.duplicateSelected();
        QCOMPARE(desk.session.level().emitters.size(), std::size_t{5});
        QCOMPARE(desk.session.selection().size(), std::size_t{2});
        QVERIFY(!desk.session.selection().contains({"a"}));
        desk.session.undo();
        desk.session.undo();
        QVERIFY(!desk.session.changed());
        QVERIFY(desk.session.redoName().startsWith("Move 2"));
    }
};

} // namespace tst_session

STONE_TEST(tst_session, TestSession)
#include "tst_session.moc"
