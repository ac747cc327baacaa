// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/scene.h"
#include "exports/packing.h"
#include "media/sound_file.h"
#include "project/file_error.h"
#include "project/read.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QDir>
#include <QFileInfo>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <fstream>
#include <iterator>
#include <random>

namespace tst_pack
{

using namespace stone;
namespace fs = std::filesystem;

namespace
{

std::string bytesIn(const fs::path& file)
{
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

std::string failure(const std::function<void()>& act)
{
    try {
        act();
    } catch (const FileError& error) {
        return error.what();
    }
    return {};
}

struct Yard {
    QTemporaryDir folder;
    Project project;

    Yard()
    {
        fs::create_directories(path() / "sounds");
        fixture::writeTone(path() / "sounds/tone.wav", 997.0, 2.0, 44'100, 1, 0.05);
        fixture::writeTone(path() / "sounds/wide.wav", 500.0, 2.0, 48'000, 2, 0.4);
        project = readProjectText(R"({"name": "Yard",
          "sounds": [{"id": "s", "name": "Tone", "file": "sounds/tone.wav", "loop": true, "level_db": -3},
                     {"id": "w", "name": "Wide", "file": "sounds/wide.wav", "loop": true}, {"id": "g", "name": "Gone", "file": "sounds/gone.wav"}],
          "levels": [{"id": "y", "name": "Yard",
            "emitters": [{"id": "a", "name": "Lamp", "at": [2, 3, 1.6], "sound": "s"}, {"id": "b", "name": "Air", "kind": "bed", "sound": "w", "level_db": -20}]}]})",
                                  "yard")
                      .project;
        writeProjectFile(project, path() / "project.json");
    }
    fs::path path() const { return folder.path().toStdString(); }
    std::optional<PackReport> pack(const std::optional<SoundTarget>& target = {},
                                   const std::function<bool(double)>& progress = {}) const
    {
        return packProject(project, path() / "yard.stone-pack", target, filesInside(path()), progress);
    }
};

std::vector<float> heard(const fs::path& folder)
{
    SoundBank bank(48'000);
    OfflineJob job;
    job.scene = makeScene(std::make_shared<const Project>(readProjectFile(folder).project), {"y"}, bank, filesInside(folder),
                          Loading::now);
    job.to_s = 1.0;
    job.feet = [](double) { return Pose{}; };
    return fixture::rendered(job);
}

} // namespace

/// A project in one file.
class TestPack : public QObject
{
    Q_OBJECT

private slots:
    void whatWasPackedIsThereAgain()
    {
        const Yard yard;
        const auto report = yard.pack();
        QVERIFY(report);
        QCOMPARE(report->files, 3U);
        QVERIFY(report->missing == std::vector<std::string>{"sounds/gone.wav"});
        QVERIFY(isPack(yard.path() / "yard.stone-pack"));
        QVERIFY(!isPack(yard.path() / "project.json"));
        unpack(yard.path() / "yard.stone-pack", yard.path() / "again");
        QVERIFY(bytesIn(yard.path() / "again/project.json") == bytesIn(yard.path() / "project.json"));
        QVERIFY(bytesIn(yard.path() / "again/sounds/tone.wav") == bytesIn(yard.path() / "sounds/tone.wav"));
        QVERIFY(heard(yard.path() / "again") == heard(yard.path()));
        // The same bytes each time.
        const std::string before = bytesIn(yard.path() / "yard.stone-pack");
        yard.pack();
        QVERIFY(bytesIn(yard.path() / "yard.stone-pack") == before);
    }

    /// Prepared, even made louder, everything is as loud as it was: what a file gained its level in the document loses.
    void preparedItSoundsAsBefore()
    {
        const Yard yard;
        const auto report = yard.pack(SoundTarget{.format = SoundTarget::Format::wav24,
                                                  .rate = 48'000,
                                                  .loudness = SoundTarget::Loudness::matched,
                                                  .loudness_lufs = -14.0,
                                                  .naming = SoundTarget::Naming::plain});
        QVERIFY(report && report->files == 3U);
        unpack(yard.path() / "yard.stone-pack", yard.path() / "again");
        QVERIFY(fs::exists(yard.path() / "again/sounds/tone.wav"));
        const Project again = readProjectFile(yard.path() / "again").project;
        QVERIFY(again.sounds[0]->files[0].level_db < -10.0);
        const auto was = heard(yard.path());
        const auto is = heard(yard.path() / "again");
        for (const std::size_t side : {0U, 1U}) {
            const double a = fixture::rms_db(was, side, 0.1, 0.9);
            const double b = fixture::rms_db(is, side, 0.1, 0.9);
            QVERIFY2(std::abs(a - b) < 0.05, qPrintable(QString("%1 %2").arg(a).arg(b)));
        }
    }

    /// The demo as a pack, through the command line: the bytes of the folder's render.
    void theDemoSoundsTheSame()
    {
        const QTemporaryDir folder;
        const auto run = [](const QStringList& arguments) {
            QProcess process;
            process.start(CLI, arguments);
            return process.waitForFinished(120'000) && process.exitCode() == 0;
        };
        const QString pack = folder.filePath("halt.stone-pack");
        QVERIFY(run({"pack", DEMO, "--out", pack}));
        const QStringList how{"--walk", "Tea room and back", "--to", "4", "--out"};
        QVERIFY(run(QStringList{"render", pack} + how + QStringList{folder.filePath("pack.wav")}));
        QVERIFY(run(QStringList{"render", DEMO} + how + QStringList{folder.filePath("folder.wav")}));
        QVERIFY(bytesIn(folder.filePath("pack.wav").toStdString()) == bytesIn(folder.filePath("folder.wav").toStdString()));
        QVERIFY(run({"check", pack}));
        QVERIFY(run({"unpack", pack, "--out", folder.filePath("halt")}));
        QVERIFY(run({"info", folder.filePath("halt")}));
        // What was found while packing is for whoever plays it, and nobody's file.
        QVERIFY(!QDir(folder.filePath("halt/.finds")).exists());
        unpack(pack.toStdString(), folder.filePath("with").toStdString(), true);
        QVERIFY(QFileInfo(folder.filePath("with/.finds/0.bin")).size() > 1000);
    }

    void stoppedThereIsNone()
    {
        const Yard yard;
        QVERIFY(!yard.pack({}, [](double) { return false; }));
        QVERIFY(!yard.pack(SoundTarget{}, [](double) { return false; }));
        for (const auto& entry : fs::directory_iterator(yard.path())) {
            QVERIFY(entry.path().string().find("stone-pack") == std::string::npos);
        }
        QVERIFY(
            !failure([&] { packProject(yard.project, "/nowhere/at/all.stone-pack", {}, filesInside(yard.path())); }).empty());
    }

    /// It is told how far it is, never backwards, and may be stopped wherever that is told: then there is no pack.
    void itIsStoppedWhereverItTells()
    {
        const Yard yard;
        const fs::path pack = yard.path() / "yard.stone-pack";
        for (const std::optional<SoundTarget>& target : {std::optional<SoundTarget>{}, std::optional(SoundTarget{})}) {
            std::vector<double> told;
            QVERIFY(yard.pack(target, [&](double share) {
                told.push_back(share);
                return true;
            }));
            QVERIFY(told.size() > 2);
            QVERIFY(std::is_sorted(told.begin(), told.end()));
            QVERIFY(told.front() >= 0.0 && told.back() <= 1.0);
            for (std::size_t last = 0; last < told.size(); ++last) {
                fs::remove(pack);
                std::size_t asked = 0;
                QVERIFY2(!yard.pack(target, [&](double) { return asked++ < last; }), qPrintable(QString::number(last)));
                QVERIFY(!fs::exists(pack));
            }
        }
    }

    /// Whatever a pack says: one message, and nothing beside the folder.
    void damagedPacksDoNoHarm()
    {
        const Yard yard;
        yard.pack();
        const std::string good = bytesIn(yard.path() / "yard.stone-pack");
        std::mt19937 chance(11);
        const auto below = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(chance); };
        const fs::path box = yard.path() / "box";
        int refused = 0;
        for (int i = 0; i < 1500; ++i) {
            std::string bad = good;
            // Mostly its beginning: that is what is understood.
            for (std::size_t k = 0; k <= below(3); ++k) {
                const std::size_t at = below(4) == 0 ? below(bad.size()) : below(600);
                switch (below(3)) {
                case 0: bad[at] = static_cast<char>(below(256)); break;
                case 1:
                    bad.resize(at);
                    bad.resize(std::max<std::size_t>(bad.size(), 700), '9');
                    break;
                default: bad.insert(at, 1, "0/.:{}"[below(6)]); break;
                }
            }
            std::ofstream(yard.path() / "bad.stone-pack", std::ios::binary) << bad;
            const std::string words = failure([&] { unpack(yard.path() / "bad.stone-pack", box / "in"); });
            refused += words.empty() ? 0 : 1;
            QVERIFY(words.find('\n') == std::string::npos);
        }
        QVERIFY2(refused > 1400, qPrintable(QString::number(refused)));
        for (const auto& entry : fs::directory_iterator(box)) {
            QCOMPARE(entry.path().filename().string(), std::string("in"));
        }
        for (const char* name : {"../out.txt", "/tmp/stone-echo-out.txt", "a/../../out.txt", "a//b", "./a", ""}) {
            const std::string index =
                QString("{'files': [{'name': '%1', 'size': 1, 'hash': '0'}]}").arg(name).replace('\'', '"').toStdString();
            std::string digits = std::to_string(index.size());
            digits.insert(0, 16 - digits.size(), '0');
            std::ofstream(yard.path() / "bad.stone-pack", std::ios::binary) << "Stone Echo pack 1\n" << digits << index << "x";
            QVERIFY2(!failure([&] { unpack(yard.path() / "bad.stone-pack", box / "in"); }).empty(), name);
        }
        QVERIFY(!fs::exists(box / "out.txt") && !fs::exists("/tmp/stone-echo-out.txt"));
        // A link that lies there is not written through.
        fs::remove_all(box);
        fs::create_directories(box / "in");
        fixture::writeText(box / "precious.txt", "mine");
        fs::create_symlink(box / "precious.txt", box / "in/project.json");
        unpack(yard.path() / "yard.stone-pack", box / "in");
        QCOMPARE(bytesIn(box / "precious.txt"), std::string("mine"));
    }
};

} // namespace tst_pack

STONE_TEST(tst_pack, TestPack)
#include "tst_pack.moc"
