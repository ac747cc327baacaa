// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/theme/theme.h"
#include "app/window_fixture.h"

#include <atomic>

#include "app/shell/findings_dialog.h"
#include "support/one_of_many.h"

#include <set>

namespace tst_trouble
{

using namespace stone;

namespace
{

/// A card that can be pulled out.
class Card : public HandClock
{
public:
    using HandClock::HandClock;
    std::string name() const override { return "Test card"; }
    bool audible() const override { return true; }
    bool lost() const override { return gone; }
    bool gone = false;
};

/// Opens the card while it is there, the clock when that is chosen.
auto cardOrClock(Card*& card, const std::atomic<bool>& there)
{
    return [&](const QString& name, int rate, unsigned) -> std::unique_ptr<AudioDevice> {
        if (!name.isEmpty()) {
            return openClock(rate, 256);
        }
        if (!there) {
            throw std::runtime_error("Test card is away");
        }
        auto made = std::make_unique<Card>(rate, 256);
        card = made.get();
        return made;
    };
}

} // namespace

/// What happens when something is missing, broken or goes away: one clear message, the rest works, nothing is lost.
class TestTrouble : public QObject
{
    Q_OBJECT

    static std::multiset<std::string> codesOf(const Session& session)
    {
        std::multiset<std::string> codes;
        for (const Finding& finding : session.findings()) {
            codes.insert(finding.code);
        }
        return codes;
    }

private slots:
    void initTestCase() { stone::theme::apply(*qApp); }

    void aMissingSoundLeavesTheRestWorkingAndIsRelocated()
    {
        WindowFixture f(
            R"({"sounds": [{"id": "tone", "file": "tone.wav"}, {"id": "gone", "name": "Gone", "file": "sounds/gone.wav"}],
            "emitters": [{"id": "a", "sound": "tone", "at": [0, 3, 1.6]}, {"id": "b", "sound": "gone", "at": [0, 3, 1.6]}]})");
        QTRY_VERIFY(codesOf(*f.session).count("sound-missing") == 1);
        QVERIFY(f.find<QPushButton>("findings")->text().contains("1 finding"));
        QTest::keyClick(&f.plan(), Qt::Key_Space);
        f.clock->advance(f.playback->live(), 0.2);
        QVERIFY(fixture::energy_db(f.clock->advance(f.playback->live(), 0.2), 0, 0.2) > -30.0);

        // The dialog offers a way to mend it; the file dialog behind it is the system's, so its answer is given here.
        {
            FindingsDialog dialog(*f.session, f.playback->shownScene(), f.window.get());
            dialog.show();
            QVERIFY(dialog.findChild<QPushButton*>("mend")->isVisible());
        }
        QTemporaryDir elsewhere;
        fixture::writeTone(elsewhere.filePath("found.wav").toStdString(), 300.0, 0.3);
        f.session->relocateSound({"gone"}, 0, elsewhere.filePath("found.wav"));
        // What is left is that it is listened to by two loudspeakers.
        QTRY_COMPARE(codesOf(*f.session), std::multiset<std::string>{"output-front-back"});
        QCOMPARE(f.session->project().sounds[1]->files.front().file, std::string("sounds/found.wav"));
        QVERIFY(QFile::exists(f.folder.filePath("sounds/found.wav")));
        f.window->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(f.window.get()));
        QVERIFY(f.session->undoName().endsWith("relocated"));
        f.plan().setFocus();
        QTest::keyClick(&f.plan(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(f.session->project().sounds[1]->files.front().file, std::string("sounds/gone.wav"));
    }

    void aMissingLevelIsAFinding()
    {
        WindowFixture f(R"({"levels": [{"geometry": {"file": "gone.glb"}, "emitters": [{"id": "a", "sound": "tone.wav"}]}]})");
        QTRY_VERIFY(codesOf(*f.session).count("level-unreadable") == 1);
        QCOMPARE(f.level().emitters.size(), std::size_t{1});
        QVERIFY(!f.session->changed());
    }

    void anUnreadableProjectLeavesTheOpenOneOpen()
    {
        WindowFixture f(oneTone);
        fixture::writeText(f.folder.filePath("bad.json").toStdString(), "{\"name\": 3}");
        QVERIFY(!f.window->openProject(f.folder.filePath("bad.json")));
        QVERIFY(f.window->banner().isVisible());
        QVERIFY2(f.window->banner().message().contains("bad.json:1: at /name: expected text"),
                 qPrintable(f.window->banner().message()));
        QCOMPARE(f.session->project().name, std::string("Test yard"));
    }

    void aDroppedFileThatIsNoSoundIsNamed()
    {
        WindowFixture f(oneTone);
        fixture::writeText(f.folder.filePath("zero.wav").toStdString(), "");
        f.session->addSounds({f.folder.filePath("zero.wav")});
        QTRY_VERIFY(codesOf(*f.session).count("sound-unreadable") == 1);
        f.session->addSounds({f.folder.path()});
        QVERIFY(f.window->banner().message().contains("is not a file"));
    }

    void savingWhereNothingCanBeWrittenKeepsTheWork()
    {
        WindowFixture f(oneTone);
        f.session->selectOnly({"a"});
        QTest::keyClick(&f.plan(), Qt::Key_Right, Qt::AltModifier);
        QFile::remove(QString::fromStdString(f.path()));
        QVERIFY(QDir().mkpath(QString::fromStdString(f.path()) + "/in/the/way"));
        QTest::keyClick(&f.plan(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(f.window->banner().message().contains("cannot be written"));
        QVERIFY(f.window->isWindowModified());
        QCOMPARE(f.emitter("a").at.x, 0.1);
    }

    void losingTheSoundCardGoesOnWithTheClock()
    {
        WindowFixture f(oneTone);
        Card* card = nullptr;
        const std::atomic<bool> there = true;
        f.openDevice = cardOrClock(card, there);
        QTest::keyClick(&f.plan(), Qt::Key_Space);
        QVERIFY(f.playback->audible());
        QVERIFY(fixture::energy_db(card->advance(f.playback->live(), 0.5), 0.2, 0.5) > -40.0);
        card->gone = true;
        QTRY_VERIFY(!f.playback->audible());
        QVERIFY(f.playback->listening());
        QVERIFY(f.window->banner().isVisible());
        QVERIFY2(f.window->banner().message().contains("Test card has stopped answering"),
                 qPrintable(f.window->banner().message()));
        // Time goes on, and so do meters and lists.
        const double then = f.playback->live().snapshot().time_s;
        QTRY_VERIFY(f.playback->live().snapshot().time_s > then + 0.2);
        // Chosen again, it plays again.
        f.playback->chooseOutput({});
        QVERIFY(f.playback->audible());
    }

    /// A sound server that was away for a while: nobody has to do anything.
    void anOutputThatIsThereAgainPlaysOn()
    {
        WindowFixture f(oneTone);
        Card* card = nullptr;
        std::atomic<bool> there = true;
        std::atomic<int> looked = 0;
        f.playback->output().setFind([&](const QString&) {
            ++looked;
            return there.load();
        });
        int failed = 0;
        connect(f.playback.get(), &Playback::outputFailed, this, [&] { ++failed; });
        f.openDevice = cardOrClock(card, there);
        QTest::keyClick(&f.plan(), Qt::Key_Space);
        QVERIFY(f.playback->audible());
        there = false;
        card->gone = true;
        QTRY_VERIFY(!f.playback->audible());
        QTRY_VERIFY_WITH_TIMEOUT(looked >= 1, 5'000);
        QVERIFY(f.playback->listening() && !f.playback->audible());
        there = true;
        QTRY_VERIFY_WITH_TIMEOUT(f.playback->audible(), 5'000);
        QCOMPARE(failed, 1); // said once, not each time that it was looked for
        QVERIFY2(f.window->banner().message().contains("Test card is there again"), qPrintable(f.window->banner().message()));
        QVERIFY(fixture::energy_db(card->advance(f.playback->live(), 0.5), 0.2, 0.5) > -40.0);
        // Nobody looks any more, nor after listening has ended.
        const int seen = looked;
        QTest::qWait(2'300);
        QCOMPARE(looked.load(), seen);
    }

    void anOutputThatCannotBeOpenedIsSaid()
    {
        WindowFixture f(oneTone);
        f.openDevice = [](const QString& name, int rate, unsigned) -> std::unique_ptr<AudioDevice> {
            if (name.isEmpty()) {
                throw std::runtime_error("Test card cannot be opened; choose another output");
            }
            return openClock(rate, 256);
        };
        QTest::keyClick(&f.plan(), Qt::Key_Space);
        QVERIFY(f.playback->listening());
        QVERIFY(!f.playback->audible());
        QVERIFY(f.window->banner().message().contains("Test card cannot be opened"));
    }
};

} // namespace tst_trouble

STONE_TEST(tst_trouble, TestTrouble)
#include "tst_trouble.moc"
