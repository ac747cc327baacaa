// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lists/row_list.h"
#include "app/widgets/number_field.h"
#include "app/window_fixture.h"
#include "project/edit.h"
#include "project/read.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <QLabel>
#include <QMenu>
#include <QTabBar>
#include <QToolButton>

#include <cmath>

namespace tst_for_ears
{

using namespace stone;

namespace
{

/// A tone behind a filter that leaves little of it, in a room that answers, behind a wall; and one that waits for a hand.
const std::string yard = R"({
  "name": "Try yard",
  "occlusion": {"change_db_s": 600, "bends": false},
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav", "loop": true},
             {"id": "dull", "name": "Dull", "file": "tone.wav", "loop": true, "low_pass_hz": 60}],
  "falloffs": [{"id": "flat", "lanes": [{"on": false}]}],
  "levels": [{"id": "yard", "geometry": {"file": "wall.obj", "up": "z"},
              "emitters": [{"id": "lamp", "name": "Lamp", "at": [0, 8, 1.6], "sound": "dull", "falloff": "flat"},
                           {"id": "fan", "name": "Fan", "at": [-20, 8, 1.6], "sound": "dull", "falloff": "flat"},
                           {"id": "bell", "name": "Bell", "at": [-20, 0, 1.6], "sound": "tone", "falloff": "flat",
                            "starting": {"starts": [{"on": "interact", "within_m": 0.5}]}}],
              "character": {"at": [0, 0, 0]}}]
})";

double level_db(const std::vector<float>& samples)
{
    double energy = 0.0;
    for (const float sample : samples) {
        energy += static_cast<double>(sample) * static_cast<double>(sample);
    }
    return 10.0 * std::log10(std::max(energy / static_cast<double>(std::max<std::size_t>(samples.size(), 1)), 1e-20));
}

} // namespace

/// What is done to the level for whoever listens alone: by hand, with something left out, as it was before.
class TestForEars : public QObject
{
    Q_OBJECT

    struct Yard : WindowFixture {
        Yard()
        {
            fixture::writeText(folder.filePath("wall.obj").toStdString(), fixture::boxObj("brick", {-3, 3.9, 0}, {3, 4.1, 4}));
            fixture::writeText(path(), yard);
            start();
        }
        QString words() { return find<QLabel>("forEarsWords")->text(); }
        /// Chooses from what can be tried with the emitter on the bench.
        void tryOut(const QString& words)
        {
            QMenu* menu = find<QToolButton>("emitterTry")->menu();
            emit menu->aboutToShow();
            for (QAction* action : menu->actions()) {
                if (action->text().contains(words)) {
                    action->trigger();
                    return;
                }
            }
            qFatal("nothing to try is called %s", qPrintable(words));
        }
    };

    static const Row* rowOf(WindowFixture& f, const char* list, const QString& key)
    {
        RowModel& rows = f.find<RowList>(list)->rows();
        const int at = rows.indexOfKey(key);
        return at < 0 ? nullptr : &rows.row(at);
    }

private slots:
    void anyEmitterIsStoppedAndStartedByHand()
    {
        WindowFixture f(oneTone);
        const auto before = f.session->document();
        f.session->selectOnly({"a"});
        f.playback->setListening(true);
        f.pass(0.2);
        QVERIFY(level_db(f.pass(0.2)) > -60.0);
        QTest::keyClick(f.window.get(), Qt::Key_Space, Qt::ControlModifier | Qt::ShiftModifier);
        f.pass(0.2);
        QVERIFY(level_db(f.pass(0.2)) < -120.0);
        QVERIFY(f.find<QLabel>("forEarsWords")->text().contains("by hand: Lamp"));
        QVERIFY(!f.playback->heard()[0].audible);
        f.pass(1.0);
        QTest::keyClick(f.window.get(), Qt::Key_Space, Qt::ControlModifier);
        const double started_s = f.playback->snapshot()->time_s;
        f.pass(0.3);
        QVERIFY(level_db(f.pass(0.2)) > -60.0);
        QVERIFY(std::abs(f.playback->heard()[0].start.began_s - started_s) < 0.1);
        // As the project has it, it plays since the level began; nothing of this was an edit.
        QTest::keyClick(f.window.get(), Qt::Key_F10);
        f.pass(0.2);
        QVERIFY(level_db(f.pass(0.2)) > -60.0);
        QCOMPARE(f.playback->heard()[0].start.began_s, 0.0);
        QCOMPARE(f.session->document(), before);
    }

    void whatWaitsForASignalCanBeHeardByHand()
    {
        Yard f;
        f.session->selectOnly({"bell"});
        QVERIFY(!f.playback->listening());
        f.tryOut("Start it"); // and begins to listen
        QVERIFY(f.playback->listening());
        f.pass(0.2);
        QVERIFY(f.playback->heard()[2].audible);
        f.tryOut("Stop it");
        f.pass(0.5);
        QVERIFY(!f.playback->heard()[2].audible);
    }

    /// Filters, walls and reverb of one emitter; the other like it stays as it is, and the sound follows the number.
    void somethingIsLeftOutForOneEmitterAlone()
    {
        Yard f;
        f.session->selectOnly({"lamp"});
        f.playback->setListening(true);
        f.playback->setForEars({.muted = {}, .solo = {{"lamp"}}, .soloFamilies = {}});
        f.pass(0.5);
        const double shut_db = level_db(f.pass(0.4));
        const double walled_db = f.playback->heard()[0].level_db;
        const double other_db = f.playback->heard()[1].level_db;
        f.tryOut("filters and effects");
        f.pass(0.5);
        const double bare_db = level_db(f.pass(0.4));
        // Two poles an octave each from 60 Hz to 480: some 36 dB at least for twelve to the octave.
        QVERIFY2(bare_db > shut_db + 25.0, qPrintable(QString("%1 %2").arg(bare_db).arg(shut_db)));
        QVERIFY(f.words().contains("without effects: Lamp"));
        f.tryOut("through walls");
        f.pass(0.5);
        const double open_db = level_db(f.pass(0.4));
        QVERIFY(f.playback->heard()[0].level_db > walled_db + 10.0);
        QVERIFY2(open_db > bare_db + 10.0, qPrintable(QString("%1 %2").arg(open_db).arg(bare_db)));
        f.tryOut("without reverb");
        f.pass(0.1);
        QVERIFY(f.words().contains("without reverb: Lamp") && f.words().contains("through walls: Lamp"));
        QCOMPARE(f.playback->heard()[1].level_db, other_db);
        QTest::keyClick(f.window.get(), Qt::Key_F10);
        f.pass(0.5);
        QVERIFY(std::abs(f.playback->heard()[0].level_db - walled_db) < 0.01);
        QVERIFY(!f.session->changed());
    }

    void aStateIsKeptAndHeardAgainByOneKey()
    {
        WindowFixture f(oneTone);
        f.playback->setListening(true);
        f.pass(0.3);
        const double saved_db = f.playback->heard()[0].level_db;
        f.session->selectOnly({"a"});
        f.type("emitterLevel", "-12");
        f.session->keepState("twelve down");
        f.type("emitterLevel", "-24");
        f.pass(0.3);
        QVERIFY(std::abs(f.playback->heard()[0].level_db - (saved_db - 24.0)) < 0.01);
        const auto now = f.session->document();
        const double now_db = level_db(f.pass(0.3));
        QTest::keyClick(f.window.get(), Qt::Key_F11);
        f.pass(0.3);
        QVERIFY(f.find<QLabel>("forEarsWords")->text().contains("as it was: twelve down"));
        QVERIFY(std::abs(f.playback->heard()[0].level_db - (saved_db - 12.0)) < 0.01);
        QVERIFY(std::abs(level_db(f.pass(0.3)) - now_db - 12.0) < 0.3);
        QCOMPARE(f.find<NumberField>("emitterLevel")->value(), -12.0);
        // Nothing is edited there: a typed number is refused with a word, and the field shows what holds.
        QSignalSpy refused(f.session.get(), &Session::failed);
        f.type("emitterLevel", "-3");
        QCOMPARE(refused.count(), 1);
        QVERIFY(refused.first().first().toString().contains("F11"));
        QTest::keyClick(f.window.get(), Qt::Key_F11);
        f.pass(0.3);
        QCOMPARE(f.session->document(), now);
        QVERIFY(std::abs(f.playback->heard()[0].level_db - (saved_db - 24.0)) < 0.01);
    }

    /// Without a kept state it is the last save, even of things that are gone; undoing and saving come back first.
    void theLastSaveIsWhatWasBefore()
    {
        WindowFixture f(oneTone);
        f.session->selectOnly({"a"});
        f.session->duplicateSelected();
        QCOMPARE(f.level().emitters.size(), std::size_t{2});
        QTest::keyClick(f.window.get(), Qt::Key_F11);
        QCOMPARE(f.level().emitters.size(), std::size_t{1});
        QVERIFY(f.session->selection().empty());
        QTest::keyClick(f.window.get(), Qt::Key_F11);
        QCOMPARE(f.level().emitters.size(), std::size_t{2});
        QCOMPARE(f.session->selection().size(), std::size_t{1});
        QTest::keyClick(f.window.get(), Qt::Key_F11);
        f.session->undo();
        QCOMPARE(f.level().emitters.size(), std::size_t{1});
        QVERIFY(!f.session->seen());
        f.session->redo();
        QTest::keyClick(f.window.get(), Qt::Key_F11);
        f.menu("Save");
        QVERIFY(!f.session->seen());
        QCOMPARE(readProjectFile(f.path()).project.levels[0]->emitters.size(), std::size_t{2});
        QVERIFY(!f.session->changed());
    }

    void aSoundIsPlayedByTheMarkInItsRowAndByKey()
    {
        WindowFixture f(oneTone);
        f.find<QTabBar>("listTabs")->setCurrentIndex(2);
        f.session->selectOnly({"a"});
        f.session->pin(true);
        auto* list = f.find<RowList>("sounds");
        const QModelIndex row = list->rows().index(list->rows().indexOfKey("tone"));
        const QRect box = list->visualRect(row);
        const QPoint mark(box.right() - 15, box.bottom() - 13);
        QCOMPARE(rowOf(f, "sounds", "tone")->plays, std::optional(false));
        QTest::mouseClick(list->viewport(), Qt::LeftButton, Qt::NoModifier, mark);
        QVERIFY(f.playback->auditions({"tone"}));
        QCOMPARE(rowOf(f, "sounds", "tone")->plays, std::optional(true));
        QVERIFY(list->currentKey().isEmpty()); // the mark does not choose the row
        QVERIFY(level_db(f.pass(0.5)) > -60.0);
        QTest::mouseClick(list->viewport(), Qt::LeftButton, Qt::NoModifier, mark);
        QVERIFY(!f.playback->auditions({"tone"}) && !f.playback->listening());
        // The tone lasts a second and does not loop: with Shift it goes on.
        QTest::mouseClick(list->viewport(), Qt::LeftButton, Qt::ShiftModifier, mark);
        f.pass(2.5);
        QVERIFY(f.playback->auditions({"tone"}));
        QTest::mouseClick(list->viewport(), Qt::LeftButton, Qt::NoModifier, mark);
        // By key, what is chosen in the list; it ends by itself.
        list->setCurrentKey("tone");
        QTest::keyClick(f.window.get(), Qt::Key_Space, Qt::ShiftModifier);
        QVERIFY(f.playback->auditions({"tone"}));
        f.pass(2.5);
        const bool loops = f.session->project().sounds.find({"tone"})->loop;
        QCOMPARE(f.playback->auditions({"tone"}), loops);
    }

    void muteSoloAndHushStandInEveryRow()
    {
        WindowFixture f(oneTone);
        f.session->selectOnly({"a"});
        f.session->editSelected("Mute", {}, [](Emitter& e) { e.muted = true; });
        f.playback->setForEars({.muted = {{"a"}}, .solo = {{"a"}}, .soloFamilies = {}});
        QTest::qWait(100);
        QCOMPARE(rowOf(f, "everything", "a")->flags, QString("mute solo hush"));
        f.playback->hearAsItIs();
        QCOMPARE(rowOf(f, "everything", "a")->flags, QString("mute"));
    }
};

} // namespace tst_for_ears

STONE_TEST(tst_for_ears, TestForEars)
#include "tst_for_ears.moc"
