// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/take_desk.h"
#include "app/strata/film_maker.h"
#include "app/strata/strata_panel.h"
#include "app/strata/take_comparison.h"
#include "app/strata/take_page_job.h"
#include "app/window_fixture.h"
#include "project/edit.h"
#include "support/one_of_many.h"

#include <QAction>
#include <QComboBox>
#include <QElapsedTimer>
#include <QMenu>
#include <QProcess>
#include <QStandardPaths>

#include <cmath>
#include <filesystem>

namespace tst_takes_window
{

using namespace stone;

namespace
{

/// Two lamps along a walk, and a fan that a value softens.
const std::string yard = R"({
  "name": "Take yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 1, "silent_at_m": 60}]}],
  "families": [{"id": "lamps", "name": "Lamps"}],
  "game_values": [{"id": "wind", "name": "Wind", "smoothing_s": 0}],
  "levels": [{"id": "yard", "character": {"at": [0, 0, 0]}, "emitters": [
    {"id": "a", "name": "First lamp", "at": [-3, 2, 1.6], "sound": "tone", "falloff": "yard", "family": "lamps"},
    {"id": "b", "name": "Second lamp", "at": [3, 9, 1.6], "sound": "tone", "falloff": "yard", "family": "lamps"},
    {"id": "fan", "name": "Fan", "at": [0, 15, 1.6], "sound": "tone", "falloff": "yard", "level_db": -6}],
   "walks": [{"id": "w", "name": "Along", "points": [{"t_s": 0, "at": [0, 0, 0]}, {"t_s": 6, "at": [0, 12, 0]}],
              "events": [{"t_s": 3, "is": "value", "value": "wind", "to": 1}]}]}]
})";

struct Yard : WindowFixture {
    Yard() : WindowFixture(yard)
    {
        playback->setMonitor_db(-20.0);
        window->findChild<QAction*>("showStrata")->setChecked(true);
        QObject::connect(&playback->takes(), &TakeDesk::failed,
                         [](const QString& message) { qWarning("%s", qPrintable(message)); });
        QTest::qWait(1); // until it is laid out
    }
    TakeDesk& desk() { return playback->takes(); }
    StrataView& strata() { return *window->findChild<StrataView*>(); }

    void soften(const char* id, double level_db)
    {
        session->edit(withEmitter(session->project(), {"yard"}, {id}, [&](Emitter& e) { e.level_db = level_db; }), "Softer");
    }

    /// A take of the walk, from its menu.
    void recordWalk()
    {
        QMenu* menu = find<QToolButton>("takeMenu")->menu();
        emit menu->aboutToShow();
        for (QAction* action : menu->actions()) {
            if (action->text().startsWith("Record the walk")) {
                action->trigger();
                break;
            }
        }
        QVERIFY(desk().recording());
        // With the take listening ends, and with it the clock.
        for (int i = 0; i < 500 && desk().recording(); ++i) {
            pass(0.02);
        }
        QVERIFY(!desk().recording());
    }
};

} // namespace

/// Takes in the window: recorded, looked at moment by moment, compared, brought back.
class TestTakesWindow : public QObject
{
    Q_OBJECT

private slots:
    /// From the button to the layered graph; list, Plan and Ledger show what was heard then.
    void aTakeIsRecordedAndLookedAt()
    {
        Yard f;
        QVERIFY(!f.desk().take());
        QTest::mouseClick(f.find<QPushButton>("recordTake"), Qt::LeftButton);
        QVERIFY(f.desk().recording() && f.playback->listening());
        f.pass(1.0);
        f.playback->setGameValue({"wind"}, 0.5);
        f.pass(0.5);
        f.soften("a", -12.0);
        f.pass(1.0);
        QTest::mouseClick(f.find<QPushButton>("recordTake"), Qt::LeftButton);
        QVERIFY(!f.desk().recording() && f.desk().take());
        const Take& take = *f.desk().take();
        QVERIFY2(std::abs(take.seconds() - 2.5) < 0.2, qPrintable(QString::number(take.seconds())));
        QVERIFY(std::filesystem::exists(std::filesystem::path(f.path()).parent_path() / "takes" / "Take 1.take"));
        QCOMPARE(f.strata().data().layers().size(), std::size_t(3));
        // Values and edits came when they came.
        QCOMPARE(take.events().size(), std::size_t(2));
        QVERIFY(take.events()[0].kind == TakeEvent::Kind::value && std::abs(take.events()[0].t_s - 1.0) < 0.1);
        QVERIFY(take.events()[1].kind == TakeEvent::Kind::edit && take.documents().size() == 2);
        // Looking ends listening; the moment under the cursor is shown as it was.
        QVERIFY(!f.playback->listening());
        f.desk().setCursor(0.5);
        const double before_db = f.playback->heard()[0].level_db;
        f.desk().setCursor(2.2);
        const double after_db = f.playback->heard()[0].level_db;
        QVERIFY2(std::abs(before_db - after_db - 12.0) < 0.05, qPrintable(QString("%1 %2").arg(before_db).arg(after_db)));
        QVERIFY(std::abs(f.playback->heard()[0].terms.total() - after_db) < 0.03);
        // Listening again leaves it.
        f.playback->setListening(true);
        QVERIFY(!f.desk().take());
        f.pass(0.2);
        QVERIFY(f.playback->heard()[0].audible);
    }

    /// By mouse and keys: the line is pulled, the time zoomed, layers are taken out and kept.
    void theGraphIsWorkedWith()
    {
        Yard f;
        f.recordWalk();
        StrataView& view = f.strata();
        const double y = view.height() / 3.0;
        f.drag(&view, {view.xOf(1.0), y}, {view.xOf(4.5), y});
        QVERIFY(std::abs(f.desk().cursor_s() - 4.5) < 0.05);
        // The character stands where it was then: 2 m a second along the walk.
        QVERIFY2(std::abs(f.playback->feet().at.y - 9.0) < 0.2, qPrintable(QString::number(f.playback->feet().at.y)));
        QVERIFY(f.playback->heard()[1].level_db > f.playback->heard()[0].level_db);
        view.setFocus();
        QTest::keyClick(&view, Qt::Key_Right, Qt::ShiftModifier);
        QVERIFY(std::abs(f.desk().cursor_s() - 5.5) < 0.05);
        QTest::keyClick(&view, Qt::Key_Left);
        QVERIFY(std::abs(f.desk().cursor_s() - 5.45) < 0.05);
        QTest::keyClick(&view, Qt::Key_Home);
        QCOMPARE(f.desk().cursor_s(), 0.0);
        QTest::keyClick(&view, Qt::Key_Plus);
        QVERIFY(view.to_s() - view.from_s() < 4.2);
        QTest::keyClick(&view, Qt::Key_End);
        QVERIFY(view.to_s() > 5.9); // it is brought into view
        for (int i = 0; i < 9; ++i) {
            QTest::keyClick(&view, Qt::Key_Minus);
        }
        QVERIFY(view.from_s() == 0.0);
        view.keepOnly("b");
        QCOMPARE(view.hidden().size(), std::size_t(2));
        view.showAll();
        QVERIFY(view.hidden().empty());
        view.hide("fan");
        QVERIFY(view.hidden() == std::set<std::string>{"fan"});
        // Strips of any value, with a word where there is none.
        QVERIFY(view.addStrip("Distance", "First lamp").isEmpty());
        QVERIFY(view.addStrip("Wind", {}).isEmpty());
        QVERIFY(view.addStrip("Colour", {}).contains("no \"Colour\""));
        QCOMPARE(view.strips(), std::size_t(2));
        view.clearStrips();
        f.choose("strataBy", "families");
        QCOMPARE(view.data().layers().size(), std::size_t(2));
    }

    /// Two takes of one walk, with an edit between: what was changed, what that did, there by a click, and back.
    void twoTakesAreCompared()
    {
        Yard f;
        f.recordWalk();
        const auto first = f.desk().take()->path();
        f.soften("b", -9.0);
        f.recordWalk();
        QCOMPARE(f.desk().shelf().size(), std::size_t(2));
        QVERIFY(!f.find<QPushButton>("takeCompare")->isEnabled());
        auto* against = f.find<QComboBox>("takeAgainst");
        against->setFocus();
        const int index = against->findData(QString::fromStdString(first.string()));
        QVERIFY(index > 0);
        while (against->currentIndex() < index) {
            QTest::keyClick(against, Qt::Key_Down);
        }
        QVERIFY(f.desk().other() && f.desk().other()->path() == first);
        QTest::mouseClick(f.find<QPushButton>("takeCompare"), Qt::LeftButton);
        auto* dialog = f.window->findChild<TakeComparisonDialog*>();
        QTRY_VERIFY(dialog->ready());
        auto* changed = dialog->findChild<QTableWidget*>("takeChanged");
        QCOMPARE(changed->rowCount(), 1);
        QVERIFY(changed->item(0, 0)->text().contains("Second lamp"));
        auto* did = dialog->findChild<QTableWidget*>("takeDid");
        QVERIFY(did->rowCount() >= 1);
        QVERIFY(did->item(0, 0)->text().startsWith("Second lamp"));
        QCOMPARE(did->item(0, 1)->text(), QStringLiteral("−9.0"));
        QTest::mouseClick(did->viewport(), Qt::LeftButton, {}, did->visualItemRect(did->item(0, 0)).center());
        QVERIFY(f.session->selection().contains({"b"}));
        // Back to what it was, as one step.
        QTest::mouseClick(dialog->findChild<QPushButton*>("takeBringBack"), Qt::LeftButton);
        QCOMPARE(f.emitter("b").level_db, 0.0);
        f.session->undo();
        QCOMPARE(f.emitter("b").level_db, -9.0);
    }

    /// Space plays what is looked at: the take from the line on, which goes along, until it is over; Listen's button says so.
    void itsSoundPlaysFromTheLine()
    {
        Yard f;
        f.recordWalk();
        f.desk().setCursor(2.0);
        QCOMPARE(f.find<QPushButton>("listen")->text(), QStringLiteral("▶ The take"));
        QTest::keyClick(&f.plan(), Qt::Key_Space);
        QVERIFY(f.desk().playing() && !f.playback->listening() && f.desk().take());
        QVERIFY(f.find<QToolButton>("takePlay")->isChecked());
        const std::vector<float> heard = f.pass(1.0);
        QVERIFY(fixture::energy_db(heard, 0.2, 0.9) > -60.0);
        QVERIFY2(std::abs(f.desk().cursor_s() - 3.0) < 0.1, qPrintable(QString::number(f.desk().cursor_s())));
        // The same frames as the take has.
        const std::vector<float> kept = f.desk().take()->sound(96'000 + 9'600, 4'800);
        const auto offset = std::size_t{9'600} * 2;
        double worst = 0.0;
        for (std::size_t i = 0; i < kept.size(); ++i) {
            worst = std::max(worst, std::abs(static_cast<double>(heard[offset + i] - kept[i])));
        }
        QVERIFY2(worst < 1e-6, qPrintable(QString::number(worst)));
        // The character stands where it was: 2 m a second.
        QVERIFY(std::abs(f.playback->feet().at.y - 6.0) < 0.3);
        // Pulling the line pulls the sound along.
        f.desk().setCursor(0.5);
        f.pass(0.4);
        QVERIFY(std::abs(f.desk().cursor_s() - 0.9) < 0.12);
        QTest::mouseClick(f.find<QPushButton>("listen"), Qt::LeftButton);
        QVERIFY(!f.desk().playing() && f.desk().take());
        QTest::mouseClick(f.find<QToolButton>("takePlay"), Qt::LeftButton);
        QVERIFY(f.desk().playing());
        f.desk().setCursor(f.desk().take()->seconds() - 0.1);
        for (int i = 0; i < 20 && f.desk().playing(); ++i) {
            f.pass(0.02);
        }
        QVERIFY(!f.desk().playing());
        // Following the walk is listening to the level again.
        QTest::keyClick(&f.plan(), Qt::Key_Space);
        QVERIFY(f.desk().playing());
        f.playback->setWalking(true);
        QVERIFY(!f.desk().playing() && !f.desk().take() && f.playback->listening());
    }

    /// One key: the other take at the same moment, in step; what is heard is said on the graph.
    void oneKeyHearsTheOther()
    {
        Yard f;
        f.recordWalk();
        const auto first = f.desk().take()->path();
        for (const char* lamp : {"a", "b", "fan"}) {
            f.soften(lamp, -20.0);
        }
        f.recordWalk();
        QVERIFY(f.desk().compareWith(first).isEmpty());
        f.desk().setCursor(1.0);
        f.desk().setPlaying(true);
        const double soft_db = fixture::energy_db(f.pass(0.5), 0.2, 0.45);
        QTest::keyClick(&f.plan(), Qt::Key_X, Qt::ShiftModifier);
        QVERIFY(f.desk().hearsOther() && f.find<QToolButton>("takeSwap")->isChecked());
        const double loud_db = fixture::energy_db(f.pass(0.5), 0.2, 0.45);
        QVERIFY2(loud_db - soft_db > 12.0, qPrintable(QString("%1 %2").arg(soft_db).arg(loud_db)));
        QVERIFY2(std::abs(f.desk().cursor_s() - 2.0) < 0.15, qPrintable(QString::number(f.desk().cursor_s())));
        QTest::mouseClick(f.find<QToolButton>("takeSwap"), Qt::LeftButton);
        QVERIFY(!f.desk().hearsOther());
        QVERIFY(std::abs(fixture::energy_db(f.pass(0.5), 0.2, 0.45) - soft_db) < 6.0);
        f.desk().compareWith({});
        QVERIFY(!f.desk().playing());
        QVERIFY(!f.find<QToolButton>("takeSwap")->isEnabled());
    }

    /// A take of free walking becomes a walk, as one step; it goes the same way.
    void aTakeBecomesAWalk()
    {
        Yard f;
        f.desk().setRecording(true);
        f.playback->setWalkInput({.ahead = 1});
        f.pass(1.5);
        f.playback->setWalkInput({.ahead = 1, .turn = 1});
        f.pass(1.0);
        f.playback->setWalkInput({});
        f.desk().setRecording(false);
        QVERIFY(f.desk().take() && f.desk().take()->info().walk.empty());
        f.menu("Make a walk of it");
        QCOMPARE(f.level().walks.size(), std::size_t(2));
        const Walk* made = f.session->selected<Walk>();
        QVERIFY(made != nullptr && made->name == "As in Take 1");
        const auto last = f.desk().take()->momentAt(100.0);
        QVERIFY(glm::length(made->points.back().at - last->feet.at) < 0.02);
        QVERIFY(std::abs(made->seconds() - last->t_s) < 0.06);
        f.session->undo();
        QCOMPARE(f.level().walks.size(), std::size_t(1));
    }

    /// Layers by keys: chosen, said, hidden, kept; rooms as layers; both takes over one ruler.
    void layersByKeys()
    {
        Yard f;
        f.recordWalk();
        const auto first = f.desk().take()->path();
        StrataView& view = f.strata();
        view.setFocus();
        QVERIFY(view.chosen().empty());
        QTest::keyClick(&view, Qt::Key_Up);
        QCOMPARE(view.chosen(), view.data().layers()[0].key);
        QVERIFY(view.accessibleDescription().startsWith(QString::fromStdString(view.data().layers()[0].name)));
        QTest::keyClick(&view, Qt::Key_Up);
        QCOMPARE(view.chosen(), view.data().layers()[1].key);
        QTest::keyClick(&view, Qt::Key_Return);
        QVERIFY(f.session->selection().contains({view.data().layers()[1].key}));
        QTest::keyClick(&view, Qt::Key_Delete);
        QVERIFY(view.hidden().contains(view.data().layers()[1].key));
        QTest::keyClick(&view, Qt::Key_Backspace);
        QVERIFY(view.hidden().empty());
        QTest::keyClick(&view, Qt::Key_Return, Qt::ShiftModifier);
        QCOMPARE(view.hidden().size(), std::size_t(2));
        QTest::keyClick(&view, Qt::Key_Backspace);
        // Each layer is where it is drawn; below them, at the same time, those of the other take.
        view.grab();
        const double x = view.xOf(3.0);
        const double bottom = view.height() - 4.0 - 4 * 30.0;
        const auto* lowest = view.layerAt({x, bottom - 3.0});
        QVERIFY(lowest != nullptr && lowest->key == view.data().layers()[0].key);
        f.recordWalk();
        QVERIFY(f.desk().compareWith(first).isEmpty());
        view.grab();
        QVERIFY(view.layerAt({x, bottom - 3.0}) != nullptr);
        const double middle = 20.0 + (bottom - 20.0) / 2.0;
        QVERIFY(view.layerAt({x, middle - 4.0}) != nullptr);
        QVERIFY(view.layerAt({x, middle - 4.0}) != view.layerAt({x, bottom - 3.0}));
        f.choose("strataBy", "rooms");
        QVERIFY(view.by() == TakeLayers::By::rooms && view.data().layers().empty());
    }

    /// A page from the menu's job: written beside, on another thread; stopped it writes nothing.
    void aPageIsWritten()
    {
        Yard f;
        f.recordWalk();
        const QString file = f.folder.filePath("shown.html");
        auto* job = new TakePageJob(f.desk(), file, f.window.get());
        QSignalSpy done(job, &TakePageJob::done);
        job->begin();
        QTRY_COMPARE(done.size(), 1);
        QVERIFY(done[0][0].toString().contains("any browser"));
        QFile page(file);
        QVERIFY(page.open(QIODevice::ReadOnly) && page.readAll().startsWith("<!DOCTYPE html>"));
        page.close();
        // A real browser runs it from the disk: the ears stand where they were, the time is said.
        if (const QString browser = QStandardPaths::findExecutable("chromium"); !browser.isEmpty()) {
            QTemporaryDir profile;
            QProcess run;
            run.start(browser, {"--headless", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage",
                                "--user-data-dir=" + profile.path(), "--dump-dom", "file://" + file});
            QVERIFY(run.waitForFinished(120'000));
            const QString shown = run.readAllStandardOutput();
            QVERIFY2(shown.contains("<p id=\"said\">0:00.0</p>"), qPrintable(shown.right(400)));
            QVERIFY(shown.contains("id=\"ears\" transform=\"translate("));
        }
        auto* nowhere = new TakePageJob(f.desk(), "/nowhere/at/all.html", f.window.get());
        QSignalSpy failed(nowhere, &TakePageJob::done);
        nowhere->begin();
        QTRY_COMPARE(failed.size(), 1);
        QVERIFY(failed[0][1].toString().isEmpty() && failed[0][0].toString().contains("/nowhere/at"));
    }

    /// A film with its sound, as long as the take; without the program one clear sentence.
    void aFilmIsMade()
    {
        Yard f;
        f.recordWalk();
        f.desk().setCursor(1.25);
        const QString file = f.folder.filePath("film.mp4");
        const auto make = [&](Film film, const std::function<void(FilmMaker&)>& meanwhile = {}) {
            FilmMaker maker(*f.session, *f.playback, std::move(film), nullptr);
            QSignalSpy done(&maker, &FilmMaker::done);
            maker.begin();
            if (meanwhile) {
                meanwhile(maker);
            }
            for (int i = 0; i < 6'000 && done.isEmpty(); ++i) {
                QTest::qWait(10);
            }
            return done.isEmpty() ? QStringLiteral("never done") : done[0][0].toString();
        };
        const QByteArray path = qgetenv("PATH");
        qputenv("PATH", f.folder.path().toLocal8Bit());
        const QString without = make({Film::Of::plan, {320, 180}, 10, file});
        qputenv("PATH", path);
        QVERIFY2(without.contains("ffmpeg") && without.contains("not installed"), qPrintable(without));
        QVERIFY(!QFile::exists(file));
        if (FilmMaker::program().isEmpty()) {
            QSKIP("ffmpeg is not installed here");
        }
        QCOMPARE(make({Film::Of::plan, {320, 180}, 10, file}), QString());
        QCOMPARE(f.desk().cursor_s(), 1.25);
        QProcess probe;
        probe.start("ffprobe",
                    {"-v", "error", "-show_entries", "stream=codec_type,width,height,nb_frames,duration", "-of", "csv", file});
        QVERIFY(probe.waitForFinished(20'000));
        const QString said = probe.readAllStandardOutput();
        QVERIFY2(said.contains("video,320,180,6."), qPrintable(said));
        QVERIFY2(said.contains("audio,"), qPrintable(said));
        const QString stopped = make({Film::Of::plan, {320, 180}, 60, f.folder.filePath("no.mp4")}, [](FilmMaker& maker) {
            QTest::qWait(50);
            maker.stop();
        });
        QVERIFY(stopped.contains("no film") && !QFile::exists(f.folder.filePath("no.mp4")));
        const QString nowhere = make({Film::Of::plan, {320, 180}, 5, "/nowhere/at/all.mp4"});
        QVERIFY(nowhere.contains("/nowhere/at/all.mp4"));
    }

    /// Kept from one start to the next, renamed, thrown away; a file that is damaged says so and harms nobody.
    void theShelfIsKept()
    {
        Yard f;
        f.recordWalk();
        const auto path = f.desk().take()->path();
        QVERIFY(f.desk().rename(path, "before the rain").isEmpty());
        QVERIFY(f.desk().rename(path.parent_path() / "before the rain.take", "a/b").contains("/"));
        f.start();
        QCOMPARE(f.playback->takes().shelf().size(), std::size_t(1));
        QCOMPARE(f.playback->takes().shelf()[0].name, QString("before the rain"));
        QCOMPARE(QString::fromStdString(f.playback->takes().shelf()[0].info.walk), QString("Along"));
        const auto kept = f.playback->takes().shelf()[0].path;
        fixture::writeText(kept.parent_path() / "letter.take",
                           "this is no take at all, only words and more words; long enough to "
                           "be looked at twice, and left alone.");
        f.playback->takes().readShelf();
        QCOMPARE(f.playback->takes().shelf().size(), std::size_t(1));
        QVERIFY(f.playback->takes().open(kept.parent_path() / "letter.take").contains("is no take"));
        std::filesystem::resize_file(kept, std::filesystem::file_size(kept) * 2 / 3);
        f.playback->takes().open(kept);
        if (f.playback->takes().take()) {
            f.playback->takes().setCursor(1.0);
            f.playback->heard();
        }
        QVERIFY(f.playback->takes().remove(kept).isEmpty());
        QVERIFY(f.playback->takes().shelf().empty() && !f.playback->takes().take());
    }

    /// Another output layout is another engine: the take ends with what it has.
    void aTakeEndsWithItsEngine()
    {
        Yard f;
        QTest::mouseClick(f.find<QPushButton>("recordTake"), Qt::LeftButton);
        f.pass(1.0);
        f.playback->setLayout(Layout::binaural);
        QVERIFY(!f.desk().recording());
        QCOMPARE(f.desk().shelf().size(), std::size_t(1));
        QVERIFY(f.desk().shelf()[0].info.seconds > 0.8);
    }
};

} // namespace tst_takes_window

STONE_TEST(tst_takes_window, TestTakesWindow)
#include "tst_takes_window.moc"
