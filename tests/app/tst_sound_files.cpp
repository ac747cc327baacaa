// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/banner.h"
#include "app/shell/findings_dialog.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <QLabel>

#include <filesystem>

namespace tst_sound_files
{

using namespace stone;
namespace fs = std::filesystem;

/// Sounds whose files change, come again or are gone while the project is open.
class TestSoundFiles : public QObject
{
    Q_OBJECT

    static double length_s(WindowFixture& f)
    {
        const SoundBank::Entry entry = f.session->soundEntry(*f.session->project().sounds[0]);
        return entry.buffer ? entry.buffer->seconds() : 0.0;
    }
    static QString said(WindowFixture& f) { return f.window->findChild<Banner*>()->message(); }

private slots:
    void aFileThatChangesIsTakenAnewWhileItPlays()
    {
        WindowFixture f(oneTone);
        f.playback->setListening(true);
        f.pass(0.2);
        QCOMPARE(length_s(f), 1.0);
        QTest::qWait(700); // it is watched a moment after it was opened
        const std::string file = f.folder.filePath("tone.wav").toStdString();
        fixture::writeTone(file, 480.0, 3.0);
        QTRY_COMPARE_WITH_TIMEOUT(length_s(f), 3.0, 5'000);
        QVERIFY(said(f).contains("tone.wav has changed on the disk"));
        // Saved beside it and put in its place, as many programs do.
        fixture::writeTone(file + ".part", 480.0, 2.0);
        fs::rename(file + ".part", file);
        QTRY_COMPARE_WITH_TIMEOUT(length_s(f), 2.0, 5'000);
        QVERIFY(!f.session->changed());
    }

    void whatChangesWhereItWasCopiedFromIsOffered()
    {
        WindowFixture f(oneTone);
        QTemporaryDir elsewhere;
        const QString source = elsewhere.filePath("bell.wav");
        fixture::writeTone(source.toStdString(), 480.0, 1.0);
        const std::vector<SoundId> ids = f.session->addSounds({source});
        QCOMPARE(ids.size(), std::size_t{1});
        const auto length = [&] {
            const SoundBank::Entry entry = f.session->soundEntry(*f.session->project().sounds.find(ids[0]));
            return entry.buffer ? entry.buffer->seconds() : 0.0;
        };
        QTRY_COMPARE(length(), 1.0);
        QTest::qWait(700);
        fixture::writeTone(source.toStdString(), 480.0, 4.0);
        QTRY_VERIFY_WITH_TIMEOUT(said(f).contains("has changed where it was copied from"), 5'000);
        QCOMPARE(length(), 1.0); // only offered
        for (QPushButton* button : f.window->findChild<Banner*>()->findChildren<QPushButton*>()) {
            if (button->text() == "Take it anew") {
                QTest::mouseClick(button, Qt::LeftButton);
            }
        }
        QTRY_COMPARE_WITH_TIMEOUT(length(), 4.0, 5'000);
    }

    /// All at once, by name, and by content where one is called otherwise now.
    void missingFilesAreFoundAgainAllAtOnce()
    {
        QTemporaryDir elsewhere;
        WindowFixture f(R"({"name": "Yard",
            "sounds": [{"id": "a", "file": "sounds/a.wav"}, {"id": "b", "file": "sounds/b.wav"}, {"id": "c", "file": "sounds/c.wav"},
                       {"id": "t", "file": "tone.wav"}],
            "levels": [{"id": "l", "emitters": [{"id": "e", "sound": "a"}]}]})");
        // Seen once, so that what is in them is known in the next run.
        fs::create_directory(f.folder.filePath("sounds").toStdString());
        double seconds = 0.5;
        for (const char* name : {"a", "b", "c"}) {
            fixture::writeTone(f.folder.filePath(QString("sounds/%1.wav").arg(name)).toStdString(), 480.0, seconds);
            seconds += 0.5;
        }
        f.start();
        for (const auto& sound : f.session->project().sounds) {
            f.session->soundEntry(*sound);
        }
        f.waitForLoading();
        QTest::qWait(3'000); // what is in them is kept a moment later
        const auto at = [&](const char* name) { return f.folder.filePath(name).toStdString(); };
        fs::create_directory(elsewhere.filePath("new").toStdString());
        fs::rename(at("sounds/a.wav"), elsewhere.filePath("new/a.wav").toStdString());
        fs::rename(at("sounds/b.wav"), elsewhere.filePath("new/b renamed.wav").toStdString());
        fs::remove(at("sounds/c.wav"));
        f.start();
        f.waitForLoading();
        QCOMPARE(f.session->missingSounds().size(), std::size_t{3});
        FindingsDialog dialog(*f.session, f.playback->shownScene(), f.window.get());
        dialog.show();
        dialog.lookIn(elsewhere.path());
        auto* outcome = dialog.findChild<QLabel*>("lookedFor");
        QTRY_VERIFY(outcome->isVisible());
        QCOMPARE(outcome->text(), QString("Found 2 of 3. Not found, or more than one like it: sounds/c.wav."));
        QCOMPARE(f.session->missingSounds().size(), std::size_t{1});
        QVERIFY(f.session->undoName().contains("2 missing sounds"));
        f.waitForLoading();
        QCOMPARE(f.session->soundEntry(*f.session->project().sounds[1]).buffer->seconds(), 1.0);
        QVERIFY(fs::exists(at("sounds/b renamed.wav"))); // copied into the project
    }
};

} // namespace tst_sound_files

STONE_TEST(tst_sound_files, TestSoundFiles)
#include "tst_sound_files.moc"
