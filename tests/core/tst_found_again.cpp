// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/found_again.h"
#include "media/measure_store.h"
#include "media/sound_bank.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTemporaryDir>
#include <QTest>

#include <atomic>
#include <fstream>

namespace tst_found_again
{

using namespace stone;
namespace fs = std::filesystem;

/// Sound files that are not where a document says are known again by what is in them, or by their names.
class TestFoundAgain : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;

    fs::path make(const std::string& file, const std::string& bytes)
    {
        const fs::path path = fs::path(folder_.path().toStdString()) / file;
        fs::create_directories(path.parent_path());
        std::ofstream(path, std::ios::binary) << bytes;
        return path;
    }

private slots:
    void init()
    {
        // Each test begins with an empty folder.
        for (const auto& entry : fs::directory_iterator(folder_.path().toStdString())) {
            fs::remove_all(entry.path());
        }
    }

    void aFileIsKnownByItsName()
    {
        make("deep/inside/Bell.WAV", "one");
        make("deep/other.wav", "two");
        make("deep/bell.txt", "no sound");
        const auto found = findAgain({{"sounds/bell.wav"}, {"sounds/horn.wav"}}, folder_.path().toStdString());
        QCOMPARE(found.size(), std::size_t{1});
        QCOMPARE(found[0].file, std::string("sounds/bell.wav"));
        QCOMPARE(found[0].at.filename().string(), std::string("Bell.WAV"));
        QVERIFY(!found[0].byContent);
    }

    /// Whatever it is called now; and of two of its name the one that has its content.
    void aFileIsKnownByWhatIsInIt()
    {
        const std::string content = contentOf(make("x", "the bell itself"));
        make("a/bell.wav", "another bell");
        make("b/bell_final_2.wav", "the bell itself");
        const auto renamed = findAgain({{"sounds/bell.wav", content}}, folder_.path().toStdString());
        QCOMPARE(renamed.size(), std::size_t{1});
        QCOMPARE(renamed[0].at.filename().string(), std::string("bell_final_2.wav"));
        QVERIFY(renamed[0].byContent);
        make("c/bell.wav", "the bell itself");
        const auto named = findAgain({{"sounds/bell.wav", content}}, folder_.path().toStdString());
        QCOMPARE(named[0].at.parent_path().filename().string(), std::string("c"));
    }

    /// Two that are as likely are nobody's: a person has to say which.
    void ofSeveralTheOneWithTheSameFoldersIsTaken()
    {
        make("new/steps/iron/1.wav", "iron");
        make("new/steps/wood/1.wav", "wood");
        const auto found =
            findAgain({{"sounds/steps/iron/1.wav"}, {"sounds/steps/1.wav"}, {"1.wav"}}, folder_.path().toStdString());
        QCOMPARE(found.size(), std::size_t{1});
        QCOMPARE(found[0].file, std::string("sounds/steps/iron/1.wav"));
        QCOMPARE(found[0].at.parent_path().filename().string(), std::string("iron"));
    }

    void nothingIsFoundWhereThereIsNothing()
    {
        QVERIFY(findAgain({{"a.wav"}}, "/no/such/folder").empty());
        make("a.wav", "x");
        QVERIFY(findAgain({{"a.wav"}}, folder_.path().toStdString(), [] { return true; }).empty()); // stopped
        QVERIFY(findAgain({}, folder_.path().toStdString()).empty());
        // A folder that leads back to itself does not last for ever.
        fs::create_directory_symlink(folder_.path().toStdString(), fs::path(folder_.path().toStdString()) / "round");
        QCOMPARE(findAgain({{"a.wav"}}, folder_.path().toStdString()).size(), std::size_t{1});
    }

    /// A file that has changed is read again, and until then it is what it was.
    void whatHasChangedIsReadAgain()
    {
        const fs::path file = fs::path(folder_.path().toStdString()) / "tone.wav";
        fixture::writeTone(file.string(), 480.0, 1.0);
        SoundBank bank(48'000);
        std::atomic<int> loaded = 0;
        bank.onLoaded([&] { ++loaded; });
        bank.get(file, false, Keeping::automatic);
        QTRY_COMPARE(loaded.load(), 1);
        const SharedBuffer before = bank.get(file, false, Keeping::automatic).buffer;
        fixture::writeTone(file.string(), 480.0, 2.0);
        bank.readAgain(file);
        QVERIFY(bank.get(file, false, Keeping::automatic).buffer != nullptr);
        QTRY_COMPARE(loaded.load(), 2);
        const SharedBuffer after = bank.get(file, false, Keeping::automatic).buffer;
        QVERIFY(after != before);
        QCOMPARE(after->seconds(), 2.0);
        QCOMPARE(before->seconds(), 1.0); // whoever plays it goes on
        bank.onLoaded({});
    }
};

} // namespace tst_found_again

STONE_TEST(tst_found_again, TestFoundAgain)
#include "tst_found_again.moc"
