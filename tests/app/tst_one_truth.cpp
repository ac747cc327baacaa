// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/ledger_view.h"
#include "app/dial/ear_dial.h"
#include "app/lists/row_list.h"
#include "app/window_fixture.h"
#include "media/sound_file.h"
#include "project/read.h"
#include "project/write.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <QCheckBox>
#include <QLabel>
#include <QProcess>
#include <QPushButton>
#include <QToolButton>

#include <cmath>

namespace tst_one_truth
{

using namespace stone;

namespace
{

/// A lamp behind a wall of brick that is six metres wide, whose loss comes and goes slowly, and a fan beside.
const std::string behindAWall = R"({
  "name": "Wall yard",
  "occlusion": {"change_db_s": 6, "bends": false},
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "flat", "lanes": [{"on": false}]}],
  "families": [{"id": "fans", "name": "Fans"}],
  "levels": [{"id": "yard", "geometry": {"file": "wall.obj", "up": "z"},
              "emitters": [{"id": "lamp", "name": "Lamp", "at": [0, 8, 1.6], "sound": "tone", "falloff": "flat"},
                           {"id": "fan", "name": "Fan", "at": [-20, 8, 1.6], "sound": "tone", "family": "fans",
                            "falloff": "flat"}],
              "character": {"at": [-12, 0, 0]}}]
})";

} // namespace

/// List, Ledger, dial, command line and sound say the same of the same step; what is only for listening is not in the project.
class TestOneTruth : public QObject
{
    Q_OBJECT

    struct Yard : WindowFixture {
        Yard()
        {
            fixture::writeText(folder.filePath("wall.obj").toStdString(),
                               fixture::boxObj("brick", {-3.0, 3.9, 0.0}, {3.0, 4.1, 4.0}));
            fixture::writeText(path(), behindAWall);
            start();
            session->selectOnly({"lamp"});
        }
        const HeardStep& step() const
        {
            if (!playback->snapshot() || !playback->snapshot()->hearing) {
                qFatal("the engine told nothing of what it hears");
            }
            return *playback->snapshot()->hearing;
        }
        double heard_db(std::uint32_t index) const { return playback->heard()[index].level_db; }
        double ledger_db() { return find<LedgerView>("ledger")->total_db(); }
        /// Numbers are written anew ten times a second.
        void letShow()
        {
            QTest::qWait(110);
            playback->tick(0.0);
        }
        QString listed(const QString& key)
        {
            QTest::qWait(130); // the list is refreshed some times a second
            letShow();
            const RowModel& rows = find<RowList>("inEarshot")->rows();
            return rows.row(rows.indexOfKey(key)).value;
        }
    };

    /// Both channels together, dB.
    static double level_db(const std::vector<float>& out)
    {
        double sum = 0.0;
        for (const float x : out) {
            sum += static_cast<double>(x) * x;
        }
        return 10.0 * std::log10(2.0 * sum / static_cast<double>(out.size()) + 1e-30);
    }

private slots:
    void lossesOnTheirWayAreShownAsTheySound()
    {
        Yard f;
        f.playback->setListening(true);
        f.playback->setForEars({{}, {EmitterId{"lamp"}}, {}});
        f.pass(0.5);
        const double free_db = level_db(f.pass(1.0)) - f.heard_db(0);
        f.playback->carryFeet({Vec3{0, 0, 0}, 0.0});
        f.pass(0.7);
        const HearingModel& model = f.playback->hearing();
        const double settled_db = model.hearOne(f.playback->moment(), 0).level_db;
        double furthest_db = 0.0;
        for (int i = 0; i < 8; ++i) {
            f.letShow();
            // 20 ms are about four steps: what is decided now sounds four steps later.
            const Heard& heard = f.playback->heard()[0];
            const double shown_db = heard.level_db;
            const double sounds_db = model.bands_db(heard)[3]; // the tone lies in the octave of 500 Hz
            furthest_db = std::max(furthest_db, shown_db - settled_db);
            QCOMPARE(f.ledger_db(), shown_db);
            QCOMPARE(shown_db, f.step().heard[0].level_db);
            const std::vector<float> out = f.pass(0.04);
            const std::vector<float> then(out.begin() + static_cast<std::ptrdiff_t>(out.size() / 2), out.end());
            QVERIFY2(std::abs(level_db(then) - free_db - sounds_db) < 0.15,
                     qPrintable(QString("%1 against %2").arg(level_db(then) - free_db).arg(sounds_db)));
        }
        QVERIFY2(furthest_db > 3.0, "the loss was on its way, and was shown so");
        f.pass(8.0);
        f.letShow();
        QVERIFY(std::abs(f.heard_db(0) - settled_db) < 0.1);
        QCOMPARE(f.ledger_db(), f.heard_db(0));
        QVERIFY(f.listed("lamp").contains(QString::number(std::abs(std::lround(f.heard_db(0))))));

        // The command line stands where the ears are.
        const Vec3 at = f.playback->ears().at;
        QProcess probe;
        probe.start(CLI, {"probe", QString::fromStdString(f.path()), "--only", "Lamp", "--at",
                          QString("%1,%2,%3").arg(at.x).arg(at.y).arg(at.z)});
        QVERIFY(probe.waitForFinished());
        const QString said = QString::fromUtf8(probe.readAllStandardOutput());
        const double told_db = said.trimmed().split(QChar(0x20)).first().toDouble();
        QVERIFY2(std::abs(told_db - f.heard_db(0)) < 0.1, qPrintable(said + probe.readAllStandardError()));
    }

    void mutesAndSoloCountInTheSameStep()
    {
        Yard f;
        f.playback->setListening(true);
        f.pass(0.5);
        const auto isSilent = [&](std::uint32_t index) { return !std::isfinite(f.heard_db(index)); };
        QVERIFY(!isSilent(0) && !isSilent(1));
        QTest::mouseClick(f.find<QToolButton>("emitterSolo"), Qt::LeftButton);
        f.pass(0.1);
        QVERIFY(!isSilent(0) && isSilent(1));
        QCOMPARE(f.step().heard[1].level_db, f.heard_db(1));
        const double alone_db = level_db(f.pass(0.3));
        QTest::mouseClick(f.find<QToolButton>("emitterSolo"), Qt::LeftButton);
        QTest::mouseClick(f.find<QToolButton>("emitterHushed"), Qt::LeftButton);
        f.pass(0.1);
        f.letShow();
        QVERIFY(isSilent(0) && !isSilent(1));
        QVERIFY(!std::isfinite(f.ledger_db()));
        QTest::mouseClick(f.find<QCheckBox>("emitterMuted"), Qt::LeftButton);
        QTest::mouseClick(f.find<QToolButton>("emitterHushed"), Qt::LeftButton);
        f.session->selectOnly({"fan"});
        QTest::mouseClick(f.find<QCheckBox>("emitterMuted"), Qt::LeftButton);
        f.pass(0.1);
        QVERIFY(isSilent(0) && isSilent(1));
        QVERIFY(level_db(f.pass(0.3)) < alone_db - 100.0);
    }

    /// The bench, the list and the strip over the sheet; nothing of it is an edit.
    void whatIsOnlyForListeningIsNotInTheProject()
    {
        Yard f;
        const auto before = f.session->document();
        auto* strip = f.find<QWidget>("forEars");
        QVERIFY(!strip->isVisible());
        QTest::mouseClick(f.find<QToolButton>("emitterSolo"), Qt::LeftButton);
        QVERIFY(strip->isVisible());
        QVERIFY(f.find<QLabel>("forEarsWords")->text().contains("solo: Lamp"));
        QTest::keyClick(f.window.get(), Qt::Key_Z);
        QVERIFY(f.find<QLabel>("forEarsWords")->text().contains("without the gaze"));
        QCOMPARE(f.session->document(), before);
        QVERIFY(!f.session->changed());
        QTest::keyClick(f.window.get(), Qt::Key_F10);
        QVERIFY(!strip->isVisible() && f.playback->forEars().empty() && f.playback->otherwise().gazing);
        QVERIFY(!f.find<QToolButton>("emitterSolo")->isChecked());

        // Families too.
        f.playback->setForEars({{}, {}, {FamilyId{"fans"}}});
        QVERIFY(f.find<QLabel>("forEarsWords")->text().contains("solo: Fans"));
        QVERIFY(!std::isfinite(f.heard_db(0)) && std::isfinite(f.heard_db(1)));
        // Another project knows nothing of it.
        f.session->startNew();
        QVERIFY(f.playback->forEars().empty() && !strip->isVisible());
    }

    void anotherFalloffIsHeardWithoutAnEdit()
    {
        WindowFixture f(oneTone);
        f.session->selectOnly({"a"});
        f.playback->setListening(true);
        f.pass(0.2);
        const double before_db = f.playback->heard()[0].level_db;
        QTest::keyClick(f.window.get(), Qt::Key_X); // kept for comparing
        Falloff louder = falloffOf(f.session->project(), f.emitter("a"));
        louder.lanes.front().formula.reference_m = 5.0;
        f.session->edit(withFalloff(f.session->project(), f.session->levelId(), {"a"}, louder), "Louder");
        f.pass(0.2);
        const double after_db = f.playback->heard()[0].level_db;
        QVERIFY(after_db > before_db + 6.0);
        const auto edited = f.session->document();
        QTest::keyClick(f.window.get(), Qt::Key_X);
        f.pass(0.2);
        QVERIFY(std::abs(f.playback->heard()[0].level_db - before_db) < 1e-9);
        QVERIFY(f.find<QLabel>("comparing")->text().contains("you hear the dashed one"));
        QVERIFY(f.find<QLabel>("forEarsWords")->text().contains("another falloff: Lamp"));
        QCOMPARE(f.session->document(), edited);
        QTest::keyClick(f.window.get(), Qt::Key_X);
        f.pass(0.2);
        QVERIFY(std::abs(f.playback->heard()[0].level_db - after_db) < 1e-9);
    }

    void soloOfOldProjectsIsLeftOutWithAWord()
    {
        QTemporaryDir folder;
        const std::string old =
            R"({"families": [{"id": "f", "name": "F", "solo": true}], "sounds": [{"id": "s", "name": "S", "file": "tone.wav"}],
            "levels": [{"id": "l", "emitters": [{"id": "a", "name": "Lamp", "sound": "s", "solo": true},
                                                {"id": "b", "name": "Fan", "sound": "s", "solo": false}]}]})";
        fixture::writeText(folder.filePath("project.json").toStdString(), old);
        const ReadProject loaded = readProjectFile(folder.path().toStdString());
        QCOMPARE(loaded.notices.size(), std::size_t{2});
        for (const ReadNotice& notice : loaded.notices) {
            QVERIFY(QString::fromStdString(notice.message).contains("only for listening"));
        }
        QVERIFY(!QString::fromStdString(projectText(loaded.project)).contains("solo"));
    }

    void rendersLeaveOutWhatTheyAreTold()
    {
        Yard f;
        const auto render = [&](const QStringList& more) {
            const QString out = f.folder.filePath("out.wav");
            QProcess cli;
            cli.start(CLI, QStringList{"render", QString::fromStdString(f.path()), "--at", "-12,0,1.6", "--seconds", "0.5",
                                       "--out", out} +
                               more);
            cli.waitForFinished();
            return cli.exitCode() == 0
                       ? fixture::rms_db(readSoundFile(out.toStdString(), 48'000, false)->channels[0], 0, 0.2, 0.5, 1)
                       : 1000.0;
        };
        const double both_db = render({});
        const double lamp_db = render({"--without", "Fan"});
        QVERIFY(both_db < 100.0 && lamp_db < both_db - 1.0);
        QCOMPARE(render({"--only", "Lamp"}), lamp_db);
        QVERIFY(render({"--without", "Fan", "--without", "Lamp"}) < -200.0);
        QCOMPARE(render({"--without", "Nobody"}), 1000.0);
        // The project's own mute counts in renders.
        f.session->edit(withEmitter(f.session->project(), {"yard"}, {"fan"}, [](Emitter& e) { e.muted = true; }), "Mute Fan");
        QTest::keyClick(f.window.get(), Qt::Key_S, Qt::ControlModifier);
        QCOMPARE(render({}), lamp_db);
    }
};

} // namespace tst_one_truth

STONE_TEST(tst_one_truth, TestOneTruth)
#include "tst_one_truth.moc"
