// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes/lane_stack.h"
#include "app/lists/row_list.h"
#include "app/shell/banner.h"
#include "app/sounds/waveform_view.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <algorithm>
#include <cmath>

namespace tst_sound_page
{

using namespace stone;

/// A sound on the bench, by mouse and keyboard.
class TestSoundPage : public QObject
{
    Q_OBJECT

private slots:
    /// Rendered off the window's thread, and said in words; an edit of the sound makes it stale.
    void repeatsAreListenedFor()
    {
        WindowFixture f(oneTone);
        f.find<QTabBar>("listTabs")->setCurrentIndex(2);
        auto* sounds = f.find<RowList>("sounds");
        sounds->setFocus();
        QTest::keyClick(sounds, Qt::Key_Down);
        QTRY_VERIFY(f.find<QWidget>("soundPage")->isVisible());
        auto* button = f.find<QPushButton>("listenForRepeats");
        QCOMPARE(button->text(), QString("Listen for repeats"));
        QTest::mouseClick(button, Qt::LeftButton);
        QVERIFY(button->text().startsWith("Stop listening"));
        auto* words = f.find<QLabel>("repetition");
        QTRY_VERIFY(words->isVisible());
        // A steady tone: nothing of it swings, so nothing is heard to come again.
        QVERIFY(words->text().contains("fills 100 %") && !words->text().contains("You can hear it repeat"));
        f.session->editSound({"tone"}, "softer", {}, [](Sound& s) { s.level_db = -6.0; });
        QVERIFY(!words->isVisible());
    }

    /// Measured once, kept beside what the program keeps for itself, and forgotten by hand.
    void measuresAreForgottenFromTheMenu()
    {
        WindowFixture f(oneTone);
        f.waitForLoading();
        const MeasureStore& kept = *f.session->bank().measures();
        QVERIFY(kept.folder().string().starts_with(f.state.path().toStdString()));
        QTRY_COMPARE(kept.size().files, std::size_t{1});
        f.menu("Forget measures of sounds");
        QCOMPARE(kept.size().files, std::size_t{0});
        QVERIFY(f.find<Banner>("banner")->message().contains("(1 files"));
    }

    void aSoundIsLookedAtAndAuditioned()
    {
        WindowFixture f(oneTone);
        f.find<QTabBar>("listTabs")->setCurrentIndex(2);
        auto* sounds = f.find<RowList>("sounds");
        sounds->setFocus();
        QTest::keyClick(sounds, Qt::Key_Down);
        auto* wave = f.find<WaveformView>("waveform");
        QTRY_VERIFY(wave->ready());
        QVERIFY(f.find<QLabel>("soundFacts")->text().contains("mono"));
        // Nothing plays: it is heard alone, from where one clicks, and listening ends with it.
        QTest::mouseClick(wave, Qt::LeftButton, {}, QPoint(wave->width() / 2, 40));
        QVERIFY(f.playback->auditioned() && f.playback->auditioned()->sound == SoundId{"tone"});
        QVERIFY(f.playback->listening());
        QVERIFY(fixture::energy_db(f.clock->advance(f.playback->live(), 0.3), 0.1, 0.3) > -20.0); // as recorded, not 5 m away
        f.playback->tick(0.02);
        const double at_s = f.playback->positionsOf({"tone"}, 0).at(0);
        const double length_s = f.session->soundEntry(*f.session->project().sounds[0]).buffer->seconds();
        QVERIFY2(std::abs(std::remainder(at_s - length_s / 2.0 - 0.3, length_s)) < 0.05, qPrintable(QString::number(at_s)));
        QTest::mouseClick(f.find<QPushButton>("audition"), Qt::LeftButton);
        QVERIFY(!f.playback->listening() && !f.playback->auditioned());
        // While the level plays it comes on top, and the level goes on.
        f.playback->setListening(true);
        const double before = fixture::energy_db(f.clock->advance(f.playback->live(), 0.4), 0.2, 0.4);
        QTest::mouseClick(f.find<QPushButton>("audition"), Qt::LeftButton);
        QVERIFY(fixture::energy_db(f.clock->advance(f.playback->live(), 0.4), 0.2, 0.4) > before + 3.0);
        QTest::mouseClick(f.find<QPushButton>("audition"), Qt::LeftButton);
        QVERIFY(f.playback->listening());
        QVERIFY(std::abs(fixture::energy_db(f.clock->advance(f.playback->live(), 0.4), 0.2, 0.4) - before) < 0.5);
        // The wheel zooms to the cursor.
        const double seen = wave->to_s() - wave->from_s();
        QWheelEvent wheel(QPointF(20, 20), wave->mapToGlobal(QPointF(20, 20)), {}, {0, 240}, {}, {}, Qt::NoScrollPhase, false);
        QApplication::sendEvent(wave, &wheel);
        QVERIFY(wave->to_s() - wave->from_s() < 0.8 * seen);
        f.type("soundLevel", "-3");
        QCOMPARE(f.session->project().sounds[0]->level_db, -3.0);
    }

    void aSoundIsMadeOfSeveralFiles()
    {
        WindowFixture f(oneTone);
        fixture::writeTone(f.folder.filePath("soft.wav").toStdString(), 1000.0, 0.5, 48'000, 1, 0.05);
        f.session->addFiles({"tone"}, {f.folder.filePath("soft.wav")});
        const auto sound = [&]() -> const Sound& { return *f.session->project().sounds[0]; };
        QCOMPARE(sound().files.size(), std::size_t{2});
        QVERIFY(sound().copiesApart);
        f.session->selectOnly({"a"});
        QTest::mouseClick(f.find<QPushButton>("openSound"), Qt::LeftButton);
        QTRY_VERIFY(f.session->soundEntry(sound(), 1).buffer);
        f.choose("soundMake", "a run: one file after another");
        QCOMPARE(sound().make, Make::run);
        f.choose("soundOrder", "in turn");
        f.type("gapMost", "0.5");
        f.type("gapLeast", "0.25");
        QVERIFY(sound().sequence.gapLeast_s == 0.25 && sound().sequence.gapMost_s == 0.5);
        // The longest gap never falls below the shortest: the other one gives way.
        f.type("gapMost", "0.1");
        QVERIFY(sound().sequence.gapLeast_s == 0.1 && sound().sequence.gapMost_s == 0.1);
        // All files as loud as each other, at one click and one step of the history.
        QTRY_VERIFY(std::any_of(f.session->findings().begin(), f.session->findings().end(),
                                [](const Finding& finding) { return finding.code == "variations-uneven"; }));
        QTest::mouseClick(f.find<QPushButton>("matchLevels"), Qt::LeftButton);
        const auto loudness = [&](std::size_t i) {
            return f.session->soundEntry(sound(), i).buffer->facts.loudness_lufs() + sound().files[i].level_db;
        };
        QVERIFY(std::abs(loudness(0) - loudness(1)) < 0.11);
        f.session->undo();
        QCOMPARE(sound().files[1].level_db, 0.0);
        // A click into the second file's waveform plays that one alone.
        QTest::mouseClick(f.find<QPushButton>("file1"), Qt::LeftButton);
        auto* wave = f.find<WaveformView>("waveform");
        QTRY_VERIFY(wave->ready());
        QTest::mouseClick(f.find<QCheckBox>("roundAndRound"), Qt::LeftButton, {}, QPoint(8, 8));
        QTest::mouseClick(wave, Qt::LeftButton, {}, QPoint(3, 40));
        QVERIFY(f.playback->auditioned() && f.playback->auditioned()->file == std::size_t{1});
        const double soft = fixture::energy_db(f.clock->advance(f.playback->live(), 0.3), 0.1, 0.3);
        QVERIFY2(std::abs(soft + 29.03) < 0.1, qPrintable(QString::number(soft)));
        f.clock->advance(f.playback->live(), 0.5);
        f.playback->tick(0.02);
        QVERIFY(!f.playback->auditioned()); // once through, and listening ends with it
        QTest::mouseClick(f.find<QPushButton>("soundBack"), Qt::LeftButton);
        QVERIFY(f.find<QLineEdit>("emitterName")->isVisible());
    }

    void filtersAndEffectsAreSetAndPassedBy()
    {
        WindowFixture f(oneTone);
        f.session->selectOnly({"a"});
        QTest::mouseClick(f.find<QPushButton>("openSound"), Qt::LeftButton);
        const auto sound = [&]() -> const Sound& { return *f.session->project().sounds[0]; };
        f.playback->setListening(true);
        const auto level = [&] { return fixture::energy_db(f.clock->advance(f.playback->live(), 0.4), 0.2, 0.4); };
        const double before = level();
        f.find<QTabBar>("soundTabs")->setCurrentIndex(2);
        QTest::mouseClick(f.find<QCheckBox>("equaliser"), Qt::LeftButton, {}, QPoint(8, 8));
        f.type("eqMiddle", "-12");
        f.type("eqMiddleHz", "480");
        QVERIFY(sound().effects.equaliser.on && sound().effects.equaliser.middle_hz == 480.0);
        QVERIFY2(std::abs(level() - before + 12.0) < 0.2, qPrintable(QString::number(level() - before)));
        // One key to hear it without, and with it again; the document stays as it is.
        const Project document = f.session->project();
        f.plan().setFocus();
        QTest::keyClick(&f.plan(), Qt::Key_T);
        QVERIFY(f.playback->otherwise().bare && std::abs(level() - before) < 0.2);
        QVERIFY(f.find<QCheckBox>("bare")->isChecked());
        QTest::keyClick(&f.plan(), Qt::Key_T);
        QVERIFY(std::abs(level() - before + 12.0) < 0.2);
        QVERIFY(f.session->project() == document);
        // A lane over time is added by its link and heard from the next start on.
        f.find<QTabBar>("soundTabs")->setCurrentIndex(1);
        auto* stack = f.find<LaneStack>("overTime");
        stack->enlarge(LaneProperty::level);
        QCOMPARE(sound().lanes.size(), std::size_t{1});
        QVERIFY(sound().lanes[0].over == LaneInput::time);
        f.playback->restart();
        const auto start = f.clock->advance(f.playback->live(), 1.6);
        QVERIFY(fixture::energy_db(start, 0.02, 0.1) < fixture::energy_db(start, 1.2, 1.4) - 6.0);
        // Kept another way, it sounds the same.
        f.find<QTabBar>("soundTabs")->setCurrentIndex(4);
        f.choose("soundKeeping", "streamed from the disk");
        QTRY_VERIFY(f.session->soundEntry(sound()).buffer && !f.session->soundEntry(sound()).buffer->decoded());
        QTRY_VERIFY(f.find<QLabel>("soundCost")->text().contains("of a processor core"));
        auto* folder = f.find<QLineEdit>("soundFolder");
        folder->setFocus();
        QTest::keyClicks(folder, "hums/low");
        QTest::keyClick(folder, Qt::Key_Return);
        QCOMPARE(sound().folder, std::string("hums/low"));
    }

    void filesAreTakenOutAndCredited()
    {
        WindowFixture f(oneTone);
        fixture::writeTone(f.folder.filePath("second.wav").toStdString(), 700.0, 0.5);
        f.session->addFiles({"tone"}, {f.folder.filePath("second.wav"), f.folder.filePath("missing.wav")});
        const auto sound = [&]() -> const Sound& { return *f.session->project().sounds[0]; };
        QTRY_COMPARE(f.session->soundEntry(sound(), 2).state, SoundBank::State::failed);
        f.session->selectOnly({"a"});
        QTest::mouseClick(f.find<QPushButton>("openSound"), Qt::LeftButton);
        // What cannot be read says so in its line; the others go on, and it is taken out by its cross.
        QTest::mouseClick(f.find<QToolButton>("remove2"), Qt::LeftButton);
        QTRY_COMPARE(sound().files.size(), std::size_t{2});
        QVERIFY(f.session->undoName().endsWith("file taken out"));
        // Each file has an author of its own.
        QTest::mouseClick(f.find<QPushButton>("file1"), Qt::LeftButton);
        f.find<QTabBar>("soundTabs")->setCurrentIndex(4);
        auto* author = f.find<QLineEdit>("soundAuthor");
        author->setFocus();
        QTest::keyClicks(author, "Somebody");
        QTest::keyClick(author, Qt::Key_Return);
        QVERIFY(sound().files[0].credit.empty() && sound().files[1].credit.author == "Somebody");
        QTest::mouseClick(f.find<QCheckBox>("soundBinaural"), Qt::LeftButton, {}, QPoint(8, 8));
        QVERIFY(sound().binaural);
        // The list of sounds says what it is, and finds it by its folder.
        auto* folder = f.find<QLineEdit>("soundFolder");
        folder->setFocus();
        QTest::keyClicks(folder, "yard");
        QTest::keyClick(folder, Qt::Key_Return);
        f.find<QTabBar>("listTabs")->setCurrentIndex(2);
        auto* list = f.find<RowList>("sounds");
        QTRY_COMPARE(list->rows().rowCount(), 2);
        QVERIFY(list->rows().row(0).heading && list->rows().row(0).title == "yard");
        QVERIFY(list->rows().row(1).detail.contains("2 variations"));
        auto* filter = f.find<QLineEdit>("soundFilter");
        filter->setFocus();
        QTest::keyClicks(filter, "nowhere");
        QCOMPARE(list->rows().rowCount(), 0);
    }

    void layersSayWhenTheyMeetAgain()
    {
        WindowFixture f(oneTone);
        fixture::writeTone(f.folder.filePath("second.wav").toStdString(), 700.0, 1.5);
        f.session->addFiles({"tone"}, {f.folder.filePath("second.wav")});
        f.session->selectOnly({"a"});
        QTest::mouseClick(f.find<QPushButton>("openSound"), Qt::LeftButton);
        f.choose("soundMake", "layers: all files at once");
        QTRY_VERIFY(f.find<QLabel>("repeats")->text().contains("3.0 s")); // 1 s and 1.5 s
        const auto sound = [&]() -> const Sound& { return *f.session->project().sounds[0]; };
        f.type("loopTo", "0.7");
        QCOMPARE(sound().files[0].loopTo_s, 0.7);
        QTRY_VERIFY(f.find<QLabel>("repeats")->text().contains("10.5 s")); // 0.7 s and 1.5 s
        f.type("levelDrift", "6");
        f.type("levelDriftPeriod", "4");
        QTest::mouseClick(f.find<QCheckBox>("levelDriftIrregular"), Qt::LeftButton, {}, QPoint(8, 8));
        QCOMPARE(sound().files[0].levelDrift, (Drift{6.0, 4.0, true}));
        QCOMPARE(sound().files[1].levelDrift, Drift{});
    }
};

} // namespace tst_sound_page

STONE_TEST(tst_sound_page, TestSoundPage)
#include "tst_sound_page.moc"
